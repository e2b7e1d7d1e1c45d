// SPDX-License-Identifier: GPL-3.0-or-later
// The part of the corrected picture that is kept.
#pragma once

#include <string>

#include "optics/picture_view.h"

namespace optrel {

/// A rectangle of the corrected picture, px from its upper left corner.
struct Crop {
    double left = 0, top = 0, width = 0, height = 0;
};

/// What is asked for, as the field says it: "none"; "largest", the largest rectangle without an empty place, "largest
/// as frame" or "largest 3:2" the largest of that proportion; or "at 10 5 80 90", left, top, width and height in
/// percent of the corrected picture. All of it for the picture as it is held.
struct CropRequest {
    enum class Kind { none, largest, as_frame, proportion, at } kind = Kind::none;
    double proportion = 0;  ///< width over height
    Crop share;             ///< of width and height, 0 to 1
};

/// Throws Error(input) for any other text, and for a rectangle that is empty or outside the picture.
CropRequest crop_wish(const std::string& text);
std::string to_text(const CropRequest& wish);

/// The largest rectangle without an empty place, of a given proportion (width over height; 0: any), by an
/// interior-point method (Boyd and Vandenberghe 2004, chapter 11) on the margins along its border. Exact to a tenth of
/// a pixel where the region is connected. Throws Error(input) when no part of the frame is in the picture.
Crop largest_inside(const PictureView& view, double proportion);

}  // namespace optrel
