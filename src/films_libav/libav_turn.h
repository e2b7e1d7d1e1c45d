// SPDX-License-Identifier: GPL-3.0-or-later
// Rotation and mirroring for display, as stated in a container.
#pragma once

#include <optional>

#include "films/film_light.h"
#include "libav.h"

namespace optrel::av {

/// First rows and columns are exchanged, then the picture is mirrored left to right, then top to bottom.
struct Turn {
    bool exchange = false, left_right = false, top_bottom = false;

    bool any() const { return exchange || left_right || top_bottom; }
};

/// The rotation of a stream by the matrix of ISO/IEC 14496-12, 6.2.2; empty when it is not a multiple of a right angle,
/// or scales.
std::optional<Turn> turn_of(const AVStream& stream);

/// True when the library writes this matrix into the container.
bool keeps_turn(const AVOutputFormat& container);

/// Rotates a picture for display; resizes `to`.
void turn(const Planes& from, const Turn& by, Planes& to);

}  // namespace optrel::av
