// SPDX-License-Identifier: GPL-3.0-or-later
// Places of a frame, on the sensor, and of its corrected picture as it is held.
#pragma once

#include <QPointF>
#include <optional>

#include "frames/metadata.h"
#include "render/framing.h"

namespace optrel {

/// Where a place of the frame lies in the picture; nothing where the correction does not reach it.
std::optional<QPointF> place_in_picture(const Vec2& frame, const Framing& framing, const Metadata& metadata);
/// Where of the frame a place of the picture was recorded; nothing where the picture is empty.
std::optional<Vec2> place_in_frame(const QPointF& picture, const Framing& framing, const Metadata& metadata);

}  // namespace optrel
