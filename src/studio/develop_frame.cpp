// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/develop_frame.h"

#include <fmt/format.h>

#include "base/error.h"
#include "frames/colour_profile.h"

namespace optrel {
namespace fs = std::filesystem;

PictureGeometry geometry_of(const Metadata& m) {
    const double assumed = m.width > 0 ? 36000.0 / m.width : 5;
    return {m.width, m.height, m.pitch_um > 0 ? m.pitch_um : assumed};
}

ResolvedFrame fields_of(const Sheet& sheet, const FrameFacts& facts, const Resolver& current) {
    if (sheet.state() != FrameState::untouched) return effective(sheet);
    ResolvedFrame fields;
    current.resolve(facts, fields);
    return fields;
}

namespace {

ProfileMatch corrected_already(const Metadata& frame) {
    ProfileMatch none;
    none.reasons.push_back("the picture is corrected already (" + frame.corrected + ")");
    return none;
}

}  // namespace

ProfileMatch profile_of(const Sheet& sheet, const ResolvedFrame& fields, const Metadata& frame,
                        const std::vector<Profile>& profiles) {
    if (sheet.exempt) return {};
    // By hand a person may ask for it all the same.
    if (!frame.corrected.empty() && !sheet.hand.count(Field::lens_profile)) return corrected_already(frame);
    return profile_for(fields, frame, profiles);
}

ProfileMatch profile_for(const ResolvedFrame& fields, const Metadata& frame, const std::vector<Profile>& profiles) {
    const std::string& wanted = fields[Field::lens_profile].value.text;
    ProfileMatch none;
    if (wanted == "none") {
        none.reasons.push_back("the baseline says none");
        return none;
    }
    if (wanted == "automatic") {
        if (!frame.corrected.empty()) return corrected_already(frame);
        ProfileMatch best =
            best_profile(profiles, frame, geometry_of(frame), grade_from_text(fields[Field::least_match].value.text));
        if (!best.profile && best.reasons.empty()) best.reasons.push_back("no profile in the store fits this frame");
        return best;
    }
    for (const Profile& p : profiles)
        if (p.id == wanted) return assigned_profile(p, frame, geometry_of(frame));
    throw input_error(fmt::format(
        "The profile {} is pinned for this frame but is not in the store; publish it or pin another.", wanted));
}

std::optional<AppliedProfile> applied(const ProfileMatch& match, const Metadata& frame) {
    if (!match.usable()) return std::nullopt;
    return AppliedProfile{node_at(*match.profile, {frame.focal_mm, frame.aperture, frame.distance_m}).node,
                          match.profile->geometry};
}

void add_own_colours(RawPicture& raw, const fs::path& path, const Metadata& metadata) {
    raw.rendering = read_rendering(path);
    raw.carried = std::make_shared<const CarriedColours>(carried_colours(path));
    raw.camera_names = {camera_name(metadata), metadata.model};
}

Developed develop_file(const fs::path& path, const Metadata& metadata, const ResolvedFrame& fields,
                       const std::optional<AppliedProfile>& profile, const Progress& progress,
                       const PictureForm& form) {
    const TakenWith taken{geometry_of(metadata).pitch_um, metadata.focal_mm, metadata.orientation};
    if (metadata.kind == FrameKind::rendered) {
        const cv::Mat3f linear = read_rendered(path);
        progress.check();
        return develop_rendered(linear, taken, fields, profile, progress, form);
    }
    RawPicture raw = read_raw(path);
    progress.check();
    add_own_colours(raw, path, metadata);
    return develop(raw, taken, fields, profile, progress, form);
}

}  // namespace optrel
