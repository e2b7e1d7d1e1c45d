// SPDX-License-Identifier: GPL-3.0-or-later
// How a picture is turned or mirrored when it is shown, as its container says it.
#pragma once

#include <optional>

#include "films/film_light.h"
#include "libav.h"

namespace optrel::av {

/// Rows and columns are exchanged first; then the picture is mirrored left to right, and top to bottom.
struct Turn {
    bool exchange = false, left_right = false, top_bottom = false;

    bool any() const { return exchange || left_right || top_bottom; }
};

/// The turn of a stream by the matrix of ISO/IEC 14496-12, 6.2.2; nothing where that turns by no multiple of a right
/// angle, or scales.
std::optional<Turn> turn_of(const AVStream& stream);

/// Whether the library writes that matrix into the container.
bool keeps_turn(const AVOutputFormat& container);

/// The picture as it is shown. `to` gets the size that it needs.
void turn(const Planes& from, const Turn& by, Planes& to);

}  // namespace optrel::av
