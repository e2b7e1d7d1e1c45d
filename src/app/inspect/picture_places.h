// SPDX-License-Identifier: GPL-3.0-or-later
// Conversion between positions in a frame (sensor) and in its corrected picture (display orientation).
#pragma once

#include <QPointF>
#include <optional>

#include "frames/metadata.h"
#include "render/framing.h"

namespace optrel {

/// Position in the picture for a position in the frame; nothing outside the correction.
std::optional<QPointF> place_in_picture(const Vec2& frame, const Framing& framing, const Metadata& metadata);
/// Position in the frame for a position in the picture; nothing where the picture is empty.
std::optional<Vec2> place_in_frame(const QPointF& picture, const Framing& framing, const Metadata& metadata);

}  // namespace optrel
