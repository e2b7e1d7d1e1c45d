// SPDX-License-Identifier: GPL-3.0-or-later
#include "optics/profile_kind.h"

#include <fmt/format.h>

#include <algorithm>

#include "base/error.h"
#include "base/words.h"
#include "optics/compare_profiles.h"
#include "optics/plausible.h"

namespace optrel {
namespace {

Profile parsed(const std::string& document) { return profile_from_json(document, "the profile"); }

std::vector<QualityFigure> figures_of(const Profile& p) {
    NodeQuality worst;
    worst.coverage = 1;
    for (const ProfileNode& n : p.nodes) {
        worst.rms_px = std::max(worst.rms_px, n.quality.rms_px);
        worst.held_out_rms_px = std::max(worst.held_out_rms_px, n.quality.held_out_rms_px);
        worst.max_sigma_px = std::max(worst.max_sigma_px, n.quality.max_sigma_px);
        worst.coverage = std::min(worst.coverage, n.quality.coverage);
    }
    return {{"largest RMS reprojection error", worst.rms_px, "px", {}},
            {"largest RMS on frames that were held out", worst.held_out_rms_px, "px", {}},
            {"largest sigma over the picture", worst.max_sigma_px, "px", {}},
            {"smallest coverage", 100 * worst.coverage, "percent", {}}};
}

std::string following(const std::string& before_document, const std::string& document, OtherSettings others) {
    const Profile before = parsed(before_document), now = parsed(document);
    if (others == OtherSettings::drop) return document;
    if (others == OtherSettings::keep) return profile_to_json(merged(before, now));
    std::vector<std::string> gone;
    for (const LensSetting& s : settings_missing(before, now)) gone.push_back(to_string(s));
    if (gone.empty()) return document;
    throw input_error(fmt::format(
        "{} version {} has {} that this measurement does not have: {}. Say whether the new version keeps "
        "(--keep-settings) or drops (--drop-settings) them.",
        before.name, before.version, gone.size() == 1 ? "a lens setting" : "lens settings", fmt::join(gone, ", ")));
}

std::vector<std::string> differences(const std::string& before_document, const std::string& after_document) {
    const Profile before = parsed(before_document), after = parsed(after_document);
    if (measurement_in(before) == measurement_in(after)) return {};
    std::vector<std::string> out;
    for (const LensSetting& gone : settings_missing(before, after))
        out.push_back(fmt::format("drops the lens setting {}", to_string(gone)));
    for (const LensSetting& added : settings_missing(after, before))
        out.push_back(fmt::format("adds the lens setting {}", to_string(added)));
    try {
        LensSetting at;
        out.push_back(compare_profiles(before, after, at).sentence());
    } catch (const Error&) {
        out.push_back("They have too little of the picture in common to be compared.");
    }
    return out;
}

}  // namespace

std::string subject_key(const Profile& p) {
    if (p.taken_in && p.taken_in->key.empty()) return {};
    const auto field = [](const std::string& text) { return fmt::format("{}:{}", text.size(), text); };
    return field(canonical_lens_text(p.lens)) + field(p.lens_serial) + field(p.camera) +
           fmt::format("{}x{}", p.geometry.width, p.geometry.height) + field(to_string(p.origin)) +
           (p.taken_in ? field(p.taken_in->key) : "here");
}

std::string measurement_in(const Profile& profile) {
    Profile p = profile;
    p.id.clear();
    p.version = 0;
    p.taken_in.reset();
    return profile_to_json(p);
}

bool same_subject(const Profile& a, const Profile& b) {
    const std::string key = subject_key(a);
    return !key.empty() && key == subject_key(b);
}

Measurement measurement_of(const Profile& p) {
    using Kind = MeasuredSubject::Kind;
    Measurement out;
    out.kind = lens_profile_kind().id;
    out.id = p.id;
    out.version = p.version;
    out.name = p.name;
    out.subject = {p.lens_serial.empty() ? Kind::lens_model : Kind::lens_copy, p.lens, p.lens_serial, p.camera};
    out.subject_key = subject_key(p);
    out.origin = p.origin;
    out.author = p.provenance.author;
    out.time = p.provenance.time;
    out.frames = p.provenance.frames;
    out.figures = figures_of(p);
    out.findings = p.findings;
    out.taken_in = p.taken_in;
    out.state = p.state;
    return out;
}

const MeasurementKind& lens_profile_kind() {
    static const MeasurementKind kind{
        .id = "profile",
        .one = "profile",
        .many = "profiles",
        .id_prefix = "p",
        .publisher = "works",
        .read =
            [](const std::string& document, const std::string& where) {
                Measurement out = measurement_of(profile_from_json(document, where));
                out.document = document;
                return out;
            },
        .numbered =
            [](const std::string& document, const std::string& id, int version) {
                Profile p = parsed(document);
                p.id = id;
                p.version = version;
                return profile_to_json(p);
            },
        .with_source =
            [](const std::string& document, const MeasurementSource& source) {
                Profile p = parsed(document);
                require_unfolded(p);
                p.taken_in = source;
                return profile_to_json(p);
            },
        .require_plausible = [](const std::string& document) { require_plausible(parsed(document)); },
        .following = following,
        .differences = differences,
    };
    return kind;
}

}  // namespace optrel
