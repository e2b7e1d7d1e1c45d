// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/profiles/frame_profile.h"

#include <fmt/format.h>

#include "base/error.h"
#include "optics/profile_versions.h"
#include "studio/frames/sensor_size.h"

namespace optrel {

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
    // A user may still assign a profile by hand.
    if (!frame.corrected.empty() && !sheet.hand.count(Field::lens_profile)) return corrected_already(frame);
    return profile_for(fields, frame, profiles);
}

ProfileMatch profile_for(const ResolvedFrame& fields, const Metadata& given, const std::vector<Profile>& profiles) {
    const Metadata frame = with_pitch(given, profiles);
    const std::string& wanted = fields[Field::lens_profile].value.text;
    ProfileMatch none;
    const ProfileReference reference = ProfileReference::parse(wanted);
    if (reference.kind == ProfileReference::Kind::none) {
        none.reasons.push_back("the baseline says none");
        return none;
    }
    if (reference.kind == ProfileReference::Kind::automatic) {
        if (!frame.corrected.empty()) return corrected_already(frame);
        if (frame.pitch_um <= 0 && frame.width > 0) {
            none.reasons.push_back(pitch_unknown(frame));
            return none;
        }
        ProfileMatch best = best_profile(profiles, frame, geometry_of(frame),
                                         grade_from_text(fields[Field::least_match].value.text), reference.as_of);
        if (!best.profile && best.reasons.empty()) best.reasons.push_back("no profile in the store fits this frame");
        return best;
    }
    if (const Profile* p = referred_profile(profiles, reference)) {
        if (p->state.withdrawn.empty() && frame.pitch_um <= 0 && frame.width != p->geometry.width)
            none.reasons.push_back(pitch_unknown(frame));
        else if (p->state.withdrawn.empty())
            return assigned_profile(*p, frame, geometry_of(frame));
        else
            none.reasons.push_back(
                fmt::format("{} version {} is pinned, but was withdrawn: {}", p->name, p->version, p->state.withdrawn));
        return none;
    }
    // All its versions may have been withdrawn.
    for (const Profile& p : profiles)
        if (p.id == reference.id && reference.version == 0) {
            none.reasons.push_back(fmt::format("{} is pinned, but has no version that is current", p.name));
            return none;
        }
    throw input_error(
        fmt::format("The profile {} is pinned for this frame but is not in the store; publish it or pin another.",
                    reference.text()));
}

std::optional<AppliedProfile> applied(const ProfileMatch& match, const Metadata& frame) {
    if (!match.usable()) return std::nullopt;
    return AppliedProfile{node_at(*match.profile, {frame.focal_mm, frame.aperture, frame.distance_m}).node,
                          match.profile->geometry};
}

}  // namespace optrel
