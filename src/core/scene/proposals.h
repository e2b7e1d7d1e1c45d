// SPDX-License-Identifier: GPL-3.0-or-later
// What a frame's own content proposes for what is corrected by hand. Each says how sure it is; none is ever taken
// without being asked for.
#pragma once

#include <functional>
#include <vector>

#include "base/progress.h"
#include "frames/picture.h"
#include "optics/frame_map.h"
#include "scene/segments.h"

namespace optrel {

/// How far red and blue lie outside green in the corner, besides the profile, in place of what a person says of it.
struct ChromaticProposal {
    struct Colour {
        double corner_px = 0, corner_sigma = 0;
        double bow_px = 0, bow_sigma = 0;  ///< as HandCorrection has it
    };
    Colour red, blue;  ///< with one sigma each
    int edges = 0;
};
/// From the frame's edges. Across each, red (blue) = a + b green moved by d, which holds for any two colours; d is
/// solved on the raw samples, without demosaicing, and corner and bow from all d by
/// Cauchy weights, with a common shift of each colour as a nuisance. Throws Error(input) when there are too few edges,
/// or none away from the middle.
ChromaticProposal propose_fringes(const MeasuringPicture& picture, const FrameMap& lens, const Progress& progress);

/// A distortion, as a share of the corner's radius, with which marked lines are straight.
struct DistortionProposal {
    double distortion = 0, sigma = 0;
    double before_px = 0, after_px = 0;  ///< RMS of the lines' places from straight, with the lens as it is and then
    int lines = 0;
};
/// By plumb lines (Brown 1971): each segment is one line of the scene that is straight. `with`: the lens for a
/// distortion by hand. Throws Error(input) when no line is long enough, or when all pass through the middle, where
/// distortion leaves lines straight.
DistortionProposal propose_distortion(const std::vector<Segment>& lines,
                                      const std::function<FrameMap(double distortion)>& with);

/// The distortion with which the middle of three places (px of the frame) lies on the straight line through the others:
/// what a person says who bends a line straight. Throws Error(input) when the line passes so near the middle of the
/// picture that distortion leaves it straight, or when no distortion within 30 % does it.
double straightening_distortion(const Vec2& from, const Vec2& middle, const Vec2& to,
                                const std::function<FrameMap(double distortion)>& with);

/// The corner's light from an area that a person says is evenly lit.
struct LightProposal {
    double light_ev = 0, light_from = 0;
    double sigma_ev = 0;
    double before_percent = 0, after_percent = 0;  ///< RMS of the area's light from even
};
/// `area`: px of the frame; `lens`: as it is, without light by hand. Throws Error(input) when the area spans too little
/// of the field's height, or is clipped or dark.
LightProposal propose_light(const MeasuringPicture& picture, const cv::Rect& area, const FrameMap& lens);

}  // namespace optrel
