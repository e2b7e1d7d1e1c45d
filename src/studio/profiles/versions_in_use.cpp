// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/profiles/versions_in_use.h"

#include <fmt/format.h>

#include "optics/profile_versions.h"

namespace optrel {

/// Smaller displacements are invisible.
constexpr double least_move_px = 0.002;

std::optional<VersionsInUse::Change> VersionsInUse::change(const Sheet& sheet, const Metadata& frame) {
    if (sheet.profile.empty() || sheet.exempt) return std::nullopt;
    const std::string now = chooser_.in_use(effective(sheet), frame);
    if (now == sheet.profile) return std::nullopt;
    const double px = moves(sheet.profile, now, frame);
    if (px < least_move_px) return std::nullopt;
    return Change{version_in_words(*profiles_, sheet.profile), version_in_words(*profiles_, now), px};
}

double VersionsInUse::moves(const std::string& before, const std::string& after, const Metadata& m) {
    const std::string key = fmt::format("{} {} {:.3g} {:.3g} {:.2g} {} {} {:.4g}", before, after, m.focal_mm,
                                        m.aperture, m.distance_m, m.width, m.height, m.pitch_um);
    const auto [it, fresh] = known_.try_emplace(key, 0);
    if (fresh)
        it->second = largest_move_px(referred_profile(*profiles_, ProfileReference::parse(before)),
                                     referred_profile(*profiles_, ProfileReference::parse(after)), m);
    return it->second;
}

}  // namespace optrel
