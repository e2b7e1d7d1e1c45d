// SPDX-License-Identifier: GPL-3.0-or-later
// Measured help for correcting a frame by hand: what its own content proposes. Nothing is taken without being asked
// for.
#pragma once

#include "base/progress.h"
#include "render/fringe_suppression.h"
#include "scene/proposals.h"
#include "studio/frame_development.h"
#include "studio/straightening.h"

namespace optrel {

/// What fields are proposed to become, with how it was found, for people.
struct FieldProposal {
    std::vector<std::pair<Field, Value>> values;
    std::string text;  ///< one sentence with one sigma
};

/// Red and blue in the corner: what the frame's edges show besides what fields and profile undo. Throws Error(input) as
/// reading and propose_fringes() do.
FieldProposal propose_colours(const std::filesystem::path& frame, const FrameDevelopment& development,
                              const Progress& progress);

/// The distortion by hand with which those of the lines that are wanted are straight. `lines`: found with the
/// development.
FieldProposal propose_distortion(const FrameLines& lines, const std::vector<bool>& wanted,
                                 const FrameDevelopment& development);

/// What the distortion by hand becomes when a person bends a line straight: see straightening_distortion().
Value bent_straight(const Vec2& from, const Vec2& middle, const Vec2& to, const FrameDevelopment& development);

/// The corner's light from an evenly lit area, px of the frame.
FieldProposal propose_light(const std::filesystem::path& frame, const FrameDevelopment& development,
                            const cv::Rect& area, const Progress& progress);

/// The fringes that are left at edges of the corrected frame, before their suppression.
std::vector<FringeFound> list_fringes(const std::filesystem::path& frame, const FrameDevelopment& development,
                                      const Progress& progress);
/// "purple, 4.2 % of white, 3 px wide, at 12 % of edges, most of them bright".
std::string describe(const FringeFound& fringe);
/// The field's text that takes a hue away by a percentage, in a range of 60 degrees about it; 0: not at all.
std::string with_hue(const std::string& hues, double hue, double percent);

}  // namespace optrel
