#include "fleet/matching.h"

#include <fmt/format.h>

#include <cmath>
#include <tuple>

namespace optrel {

std::string to_string(MatchGrade grade) {
    switch (grade) {
        case MatchGrade::own_copy: return "own copy";
        case MatchGrade::same_model: return "same model";
        case MatchGrade::rescaled: return "rescaled";
        case MatchGrade::stand_in: return "stand-in";
        default: return "none";
    }
}

ProfileMatch grade_profile(const Profile& profile, const Metadata& frame, const PictureGeometry& geometry) {
    ProfileMatch out;
    out.profile = &profile;
    const auto refuse = [&](std::string why) {
        out.grade = MatchGrade::none;
        out.reasons.push_back(std::move(why));
        return out;
    };
    if (frame.lens.empty()) return refuse("the frame does not name its lens");
    if (canonical_lens_text(frame.lens) != canonical_lens_text(profile.lens)) return refuse(fmt::format("the profile is of another lens ({})", profile.lens));
    const bool copy = !profile.lens_serial.empty() && profile.lens_serial == frame.lens_serial;
    out.grade = copy ? MatchGrade::own_copy : MatchGrade::same_model;
    out.reasons.push_back(copy ? fmt::format("measured on this very copy ({})", frame.lens_serial) : "measured on a lens of the same model");

    const ProfileNode node = node_at(profile, {frame.focal_mm, frame.aperture, frame.distance_m}).node;
    if (frame.focal_mm > 0 && node.setting.focal_mm > 0 && std::abs(std::log(frame.focal_mm / node.setting.focal_mm)) > 0.03)
        return refuse(fmt::format("measured at {:g} mm, the frame is at {:g} mm", node.setting.focal_mm, frame.focal_mm));
    const double ratio = geometry.half_diagonal_mm() / profile.geometry.half_diagonal_mm();
    if (std::abs(ratio - 1) > 0.02) {
        if (geometry.half_diagonal_mm() > 1.15 * node.largest_radius_mm)
            return refuse(fmt::format("the frame reaches {:.1f} mm from the middle, the profile's data {:.1f} mm", geometry.half_diagonal_mm(), node.largest_radius_mm));
        out.grade = MatchGrade::rescaled;
        out.reasons.push_back(fmt::format("the sensor is {:.2f} times as large as the one measured on", ratio));
    }
    if (frame.aperture > 0 && node.setting.aperture > 0 && frame.aperture != node.setting.aperture)
        out.reasons.push_back(fmt::format("measured at f/{:g}, the frame is at f/{:g}: falloff may differ", node.setting.aperture, frame.aperture));
    return out;
}

ProfileMatch best_profile(const std::vector<Profile>& profiles, const Metadata& frame, const PictureGeometry& geometry) {
    ProfileMatch best;
    for (const Profile& profile : profiles) {
        ProfileMatch match = grade_profile(profile, frame, geometry);
        if (!match.usable()) continue;
        const auto key = [](const ProfileMatch& m) { return std::tuple(static_cast<int>(m.grade), m.profile->version, m.profile->provenance.time, m.profile->id); };
        if (!best.profile || key(match) > key(best)) best = std::move(match);
    }
    return best;
}

}  // namespace optrel
