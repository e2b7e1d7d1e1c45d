// SPDX-License-Identifier: GPL-3.0-or-later
// Two measurements of the same thing, or of two copies, set against each other over the picture.
#pragma once

#include <string>
#include <vector>

#include "optics/profile.h"

namespace optrel {

/// What a repeat measurement says of the lens.
enum class RepeatVerdict {
    agrees,   ///< within both uncertainties
    drifted,  ///< differs, alike in all directions: focus, temperature, another chart
    damaged   ///< differs to one side: an element has moved, the lens is decentred
};
std::string to_string(RepeatVerdict verdict);

/// The difference b - a over a grid of the picture. What a turn of the camera (for rectilinear lenses a homography of
/// the scene) can do is taken out, since it belongs to no lens.
struct ProfileDifference {
    std::vector<Vec2> places;      ///< px in the frame, row by row, `across` in a row; reached by both
    std::vector<Vec2> px;          ///< where b sends the light that a sends there, minus that place
    std::vector<double> px_sigma;  ///< one sigma of both together
    std::vector<double> ev;        ///< falloff of b minus that of a, green; empty when either has none
    double rms_px = 0, largest_px = 0;
    double one_sided_px = 0;  ///< RMS of the part that is not alike in all directions
    double in_sigmas = 0;     ///< RMS of px over its sigma
    double largest_ev = 0;
    RepeatVerdict verdict = RepeatVerdict::agrees;

    /// One sentence with the figures.
    std::string sentence() const;
};

/// Both nodes on one picture geometry. Throws Error(input) when they have too little of the picture in common.
ProfileDifference compare_nodes(const ProfileNode& a, const ProfileNode& b, const PictureGeometry& geometry);

/// How far (px, the largest over the picture) a lens departs from the nearest lens that is alike in all directions
/// about its centre: what a decentred or tilted element does.
double decentring_px(const ProfileNode& node, const PictureGeometry& geometry);

}  // namespace optrel
