// SPDX-License-Identifier: GPL-3.0-or-later
// Loss of resolution by a correction: how far it spreads the samples of the frame, by place.
#pragma once

#include <string>
#include <vector>

#include "optics/picture_view.h"

namespace optrel {

/// Ratio of lengths in the corrected picture and in the frame near one place: in the direction in which it is largest,
/// perpendicular to it, and their product. 1 is no change; 1.1 spreads ten samples over eleven pixels.
struct Stretch {
    double largest = 1, smallest = 1;
    Vec2 direction = Vec2::UnitX();  ///< of the largest, in the corrected picture

    double area() const { return largest * smallest; }
};
/// From the derivatives of the mapping, by differences over two pixels. Empty where the picture is empty.
std::optional<Stretch> stretch_at(const PictureView& view, const Vec2& place);

/// The centre, the middles of the edges and the corners, one hundredth of the picture inside.
struct NamedPlace {
    const char* name;
    Vec2 share;  ///< of width and height
};
const std::vector<NamedPlace>& named_places();

}  // namespace optrel
