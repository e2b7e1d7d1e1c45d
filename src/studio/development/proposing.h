// SPDX-License-Identifier: GPL-3.0-or-later
// Measured proposals for manual corrections, from the contents of a frame. The user decides about each.
#pragma once

#include "base/progress.h"
#include "render/defringing.h"
#include "scene/proposals.h"
#include "studio/development/frame_development.h"
#include "studio/development/straightening.h"

namespace optrel {

/// Proposed field values, with an explanation for the user.
struct FieldProposal {
    std::vector<std::pair<Field, Value>> values;
    std::string text;  ///< one sentence, including one sigma
};

/// Red and blue shifts in the corner, measured at edges of the frame after the current correction. Throws Error(input)
/// as reading and propose_fringes() do.
FieldProposal propose_colours(const std::filesystem::path& frame, const FrameDevelopment& development,
                              const Progress& progress);

/// Manual distortion that makes the selected lines straight. `lines`: detected with the same development.
FieldProposal propose_distortion(const FrameLines& lines, const std::vector<bool>& wanted,
                                 const FrameDevelopment& development);

/// Manual distortion after the user bends a line straight; see straightening_distortion().
Value bent_straight(const Vec2& from, const Vec2& middle, const Vec2& to, const FrameDevelopment& development);

/// Corner light from an evenly lit area, px of the frame.
FieldProposal propose_light(const std::filesystem::path& frame, const FrameDevelopment& development,
                            const cv::Rect& area, const Progress& progress);

/// White balance from an area that is grey, px of the frame: warmth and tint over what the frame records, with the
/// colours that the fields choose. Throws Error(input) as neutral_of_area() does.
FieldProposal propose_neutral(const std::filesystem::path& frame, const FrameDevelopment& development,
                              const cv::Rect& area, const Progress& progress);

/// Remaining colour fringes at edges of the corrected frame, before defringing.
std::vector<FringeFound> list_fringes(const std::filesystem::path& frame, const FrameDevelopment& development,
                                      const Progress& progress);
/// Text: "purple, 4.2 % of white, 3 px wide, at 12 % of edges, most of them bright".
std::string describe(const FringeFound& fringe);
/// Value of the hue field with this hue reduced by a percentage, in a range of 60 degrees around it; 0 removes it.
std::string with_hue(const std::string& hues, double hue, double percent);

}  // namespace optrel
