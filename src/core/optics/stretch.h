// SPDX-License-Identifier: GPL-3.0-or-later
// What a correction costs: how far it pulls the frame's samples apart, place by place.
#pragma once

#include <string>
#include <vector>

#include "optics/picture_view.h"

namespace optrel {

/// The corrected picture's length over the frame's, about one place: in the direction in which it is largest, square to
/// it, and their product. 1 is no change; 1.1 spreads ten samples over eleven pixels.
struct Stretch {
    double largest = 1, smallest = 1;
    Vec2 direction = Vec2::UnitX();  ///< of the largest, in the corrected picture

    double area() const { return largest * smallest; }
};
/// By the derivatives of the mapping, from differences over two pixels. Nothing where the picture is empty.
std::optional<Stretch> stretch_at(const PictureView& view, const Vec2& place);

/// The centre, the edges' middles and the corners, a hundredth of the picture inside.
struct NamedPlace {
    const char* name;
    Vec2 share;  ///< of width and height
};
const std::vector<NamedPlace>& named_places();

}  // namespace optrel
