// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/development/frame_development.h"

#include <fmt/format.h>

#include "base/error.h"
#include "base/paths.h"
#include "measurement/findings.h"
#include "store/store.h"
#include "studio/baselines/frame_trace.h"
#include "studio/development/film_development.h"
#include "studio/frames/knowledge.h"
#include "studio/frames/sensor_size.h"
#include "studio/profiles/profile_file.h"
#include "studio/profiles/profile_fit.h"

namespace optrel {

FrameDevelopment development_from_store(const Store& store, const std::filesystem::path& frame) {
    if (named_as_film(frame)) return film_development(store, frame, "", 0, 0);
    FrameDevelopment r;
    const Sheet sheet = read_sheet(frame);
    const FrameKnowledge known = know(plain_path(frame), read_metadata(frame), *store.registry().fleet());
    r.metadata = known.metadata;
    const auto current = std::make_shared<const Resolver>(store.baselines().current());
    r.fields = fields_of(sheet, known.facts, *current);
    r.revision = sheet.state() == FrameState::untouched ? current->revision().number : sheet.revision;
    const auto resolver = resolver_of(sheet, current, [&](int number) { return store.baselines().revision(number); });
    for (const FieldInfo& f : all_fields()) {
        if (r.fields[f.field].value == f.neutral) continue;
        const std::vector<TraceLine> lines = frame_trace(sheet, known.facts, f.field, *resolver);
        if (!lines.empty()) r.sources[f.field] = lines.back().source;
    }
    if (r.metadata.kind == FrameKind::raw)
        r.sensor = sensor_facts(known.facts, *store.registry().fleet(), *body_measurements(store));
    if (!known.facts.body.empty()) r.body = body_label(known.facts, *store.registry().fleet());
    r.fields.colour_file = store.colours().fetch(r.fields[Field::colour_source].value);
    const std::vector<Profile> profiles = store.profiles().all_versions();
    r.metadata = with_pitch(r.metadata, profiles);
    const ProfileMatch match = profile_of(sheet, r.fields, r.metadata, profiles);
    take_profile(r, match);
    if (!r.profile && !match.reasons.empty()) r.why_none = match.reasons.front();
    // The pointers to tiers become invalid with the revision.
    for (ResolvedField& field : r.fields.fields) {
        field.tier = nullptr;
        field.set = nullptr;
    }
    return r;
}

FrameDevelopment development_from_profile(const std::filesystem::path& profile, const std::filesystem::path& frame,
                                          bool anyway) {
    FrameDevelopment r = bare_development(frame);
    const Profile p = read_profile(profile);
    r.metadata = with_pitch(r.metadata, {p});
    if (!anyway) require_fit(p, r.metadata, frame.string());
    if (r.metadata.pitch_um <= 0 && r.metadata.width == p.geometry.width) r.metadata.pitch_um = p.geometry.pitch_um;
    r.profile =
        AppliedProfile{node_at(p, {r.metadata.focal_mm, r.metadata.aperture, r.metadata.distance_m}).node, p.geometry};
    r.chosen = p.name;
    r.profile_id = p.id;
    r.profile_version = p.version;
    r.accepted_findings = accepted_in_words(p.findings);
    return r;
}

FrameDevelopment bare_development(const std::filesystem::path& frame) {
    if (named_as_film(frame))
        throw input_error(
            fmt::format("{} is a film, which does not say its lens; name the studio whose rules do (--store), or use "
                        "`film correct`.",
                        frame.string()));
    FrameDevelopment r;
    r.metadata = read_metadata(frame);
    r.fields = neutral_start();
    return r;
}

void set_field(FrameDevelopment& development, const std::string& assignment) {
    const std::size_t equals = assignment.find('=');
    if (equals == std::string::npos)
        throw usage_error(
            fmt::format("'{}' sets no field; write a field and its value, for instance pitch=2.5.", assignment));
    const Field field = field_named(assignment.substr(0, equals));
    if (field == Field::start || field == Field::lens_profile)
        throw usage_error(
            fmt::format("{} cannot be set for one picture; use --store or --profile.", info(field).label));
    development.fields.fields[static_cast<int>(field)].value = value_from_text(field, assignment.substr(equals + 1));
}

}  // namespace optrel
