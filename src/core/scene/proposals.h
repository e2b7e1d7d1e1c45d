// SPDX-License-Identifier: GPL-3.0-or-later
// Proposals for corrections by hand from the content of a frame, each with its uncertainty. None is applied without a
// request.
#pragma once

#include <functional>
#include <vector>

#include "base/progress.h"
#include "frames/picture.h"
#include "optics/frame_map.h"
#include "scene/segments.h"

namespace optrel {

/// Displacement of red and blue against green in the corner, in addition to the profile, in place of the values set by
/// hand.
struct ChromaticProposal {
    struct Colour {
        double corner_px = 0, corner_sigma = 0;
        double bow_px = 0, bow_sigma = 0;  ///< as in HandCorrection
    };
    Colour red, blue;  ///< with one sigma each
    int edges = 0;
};
/// From the edges of the frame. Across each edge, red (or blue) = a + b times green displaced by d, which holds for any
/// two colours. d is solved on the raw samples without demosaicing; corner and bow are solved from all d with Cauchy
/// weights, with a common shift of each colour as a nuisance parameter. Throws Error(input) when there are too few
/// edges, or none away from the middle.
ChromaticProposal propose_fringes(const MeasuringPicture& picture, const FrameMap& lens, const Progress& progress);

/// The distortion, as a share of the corner's radius, that makes marked lines straight.
struct DistortionProposal {
    double distortion = 0, sigma = 0;
    double before_px = 0,
           after_px =
               0;  ///< RMS distance of the points from straight lines, with the current lens and with the proposal
    int lines = 0;
};
/// By plumb lines (Brown 1971): each segment is one line of the scene that is straight. `with`: the lens for a
/// distortion by hand. Throws Error(input) when no line is long enough, or when all pass through the middle, where
/// distortion leaves lines straight.
DistortionProposal propose_distortion(const std::vector<Segment>& lines,
                                      const std::function<FrameMap(double distortion)>& with);

/// The distortion that puts the middle one of three places (px of the frame) on the straight line through the others,
/// when a person bends a line straight. Throws Error(input) when the line passes so near the middle of the picture that
/// distortion does not bend it, or when no distortion up to 30 % suffices.
double straightening_distortion(const Vec2& from, const Vec2& middle, const Vec2& to,
                                const std::function<FrameMap(double distortion)>& with);

/// Light in the corner, from an area that a person marks as evenly lit.
struct LightProposal {
    double light_ev = 0, light_from = 0;
    double sigma_ev = 0;
    double before_percent = 0, after_percent = 0;  ///< RMS deviation of the area's light from an even one
};
/// `area`: px of the frame; `lens`: as it is, without light by hand. Throws Error(input) when the area spans too little
/// of the field's height, or is clipped or dark.
LightProposal propose_light(const MeasuringPicture& picture, const cv::Rect& area, const FrameMap& lens);

}  // namespace optrel
