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

/// Which fringes are faults, and how much of each is taken away.
struct DefringingSettings {
    double all_percent = 0;      ///< of every hue
    std::vector<HueRange> hues;  ///< where one says more
    bool bright_only = false;    ///< only where the brighter side is above half of white

    bool any() const { return all_percent > 0 || !hues.empty(); }
    /// 0 to 1; it fades over ten degrees beyond a range.
    double share(double hue) const;
};

/// How many px about a place count for it.
inline constexpr int defringing_reach = 14;

/// In place, on white-balanced linear planes.
void apply_defringing(Planes& planes, const DefringingSettings& settings);

/// Fringes of one hue that a picture shows.
struct FringeFound {
    double hue = 0;                 ///< degrees, the mean
    double percent = 0;             ///< of white: how strong, at its strongest tenth
    double width_px = 0;            ///< how wide, the median along lines across it
    double share = 0;               ///< of all edge places that show it
    bool bright = false;            ///< most of it lies at edges whose brighter side is above half of white
    std::vector<cv::Point> places;  ///< some of where it is, strongest first
};
/// Grouped by hue, the most frequent first; what is weaker than a hundredth of white does not count.
std::vector<FringeFound> find_fringes(const Planes& planes);

}  // namespace optrel
