// SPDX-License-Identifier: GPL-3.0-or-later
// Comparison of two measurements of one lens, or of two copies, over the whole picture.
#pragma once

#include <string>
#include <vector>

#include "optics/profile.h"

namespace optrel {

/// Result of a comparison. Only one copy at one lens setting can be said to have drifted.
enum class RepeatVerdict {
    agrees,   ///< within twice the uncertainty of both, in the mapping, focal length, principal point and falloff
    drifted,  ///< one copy; the difference is equal in all directions: focus, temperature, another chart
    damaged,  ///< one copy; the difference is one-sided: an element has moved, the lens is decentred
    differs   ///< they differ, and are not known to be one copy
};
std::string to_string(RepeatVerdict verdict);

/// What the two measurements have in common.
enum class SameLens {
    one_copy,
    copy_unknown,   ///< lenses of one model; it is unknown whether they are one copy
    other_copy,     ///< two copies of one model
    other_setting,  ///< one lens at two lens settings
    other_lens
};
SameLens same_lens(const Profile& a, const Profile& b);

/// The difference b - a over a grid of the picture. Differences that a rotation of the camera explains (for rectilinear
/// lenses a homography of the scene) are removed, because they do not belong to the lens.
struct ProfileDifference {
    std::vector<Vec2> places;      ///< px in the frame, row by row, `across` in a row; reached by both
    std::vector<Vec2> px;          ///< displacement of the light: where b sends it minus where a sends it
    std::vector<double> px_sigma;  ///< one sigma of both together
    std::vector<double> ev;        ///< falloff of b minus that of a, green; empty when either has none
    double rms_px = 0, largest_px = 0;
    double one_sided_px = 0;  ///< RMS of the part that is not equal in all directions
    double in_sigmas = 0;     ///< RMS of px over its sigma
    double largest_ev = 0;
    double focal_mm = 0, focal_sigma_mm = 0;  ///< of b minus that of a, one sigma of both together; 0: not known
    Vec2 centre_px = Vec2::Zero();            ///< principal point of b minus that of a
    Vec2 centre_sigma_px = Vec2::Zero();      ///< for each axis
    SameLens of = SameLens::one_copy;
    RepeatVerdict verdict = RepeatVerdict::agrees;

    /// One sentence with the figures.
    std::string sentence() const;
};

/// Both nodes on one picture geometry. Throws Error(input) when they have too little of the picture in common.
ProfileDifference compare_nodes(const ProfileNode& a, const ProfileNode& b, const PictureGeometry& geometry,
                                SameLens of = SameLens::one_copy);

/// Two profiles at a lens setting that both were measured at, or that lies between measured ones; the first such of b
/// where none is asked for (focal length 0), which is told in `at`. Throws Error(input) where they have none in common,
/// and as compare_nodes() does.
ProfileDifference compare_profiles(const Profile& a, const Profile& b, LensSetting& at);

/// The largest distance (px) over the picture from the nearest lens that is symmetric about its centre: the effect of a
/// decentred or tilted element.
double decentring_px(const ProfileNode& node, const PictureGeometry& geometry);

}  // namespace optrel
