// SPDX-License-Identifier: GPL-3.0-or-later
// Colour fringes that no profile accounts for: what defocus and very bright edges leave, of one hue or another.
//
// Across an edge, the differences red - green and blue - green should lie between those of its two sides. The sides are
// taken 4, 8 and 14 pixels away, along or across, whichever way green changes more; what lies outside counts where
// green goes from one side to the other without turning. The hue of what lies outside is that of the colour (red -
// green, 0, blue - green): 0 red, 120 green, 240 blue, 300 purple, in degrees.
#pragma once

#include <vector>

#include "baselines/fringe_hues.h"
#include "render/planes.h"

namespace optrel {

/// The hues that are removed, and by how much.
struct DefringingSettings {
    double all_percent = 0;      ///< of every hue
    std::vector<HueRange> hues;  ///< for these hues, in place of all_percent
    bool bright_only = false;    ///< only at edges whose brighter side is above half of white

    bool any() const { return all_percent > 0 || !hues.empty(); }
    /// 0 to 1; fades over ten degrees beyond a range.
    double share(double hue) const;
};

/// Radius (px) of the neighbourhood that affects a place.
inline constexpr int defringing_reach = 14;

/// In place, on white-balanced linear planes.
void apply_defringing(Planes& planes, const DefringingSettings& settings);

/// Fringes of one hue in a picture.
struct FringeFound {
    double hue = 0;                 ///< degrees, the mean
    double percent = 0;             ///< strength, as a share of white: the mean of the strongest tenth
    double width_px = 0;            ///< median width along lines across the fringe
    double share = 0;               ///< share of all edge places that show it
    bool bright = false;            ///< most of it is at edges whose brighter side is above half of white
    std::vector<cv::Point> places;  ///< examples of its places, strongest first
};
/// Grouped by hue, most frequent first; fringes weaker than a hundredth of white are left out.
std::vector<FringeFound> find_fringes(const Planes& planes);

}  // namespace optrel
