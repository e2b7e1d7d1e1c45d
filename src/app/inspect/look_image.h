// SPDX-License-Identifier: GPL-3.0-or-later
// Conversion between sensor orientation and display orientation of pictures.
#pragma once

#include <QImage>
#include <QRectF>

#include "render/prepared_frame.h"

namespace optrel {

/// In display orientation; transparent where it is empty. Dithered to 8 bits.
QImage image_of(const PreparedFrame::Look& look, int orientation);
/// The marks of a look as patterns that need no colour to be told apart, transparent elsewhere: strokes that rise for
/// samples clipped in the raw, vertical ones for what development clips, strokes that fall for what is black, dots for
/// what the screen cannot show. Null when there are none.
QImage marks_of(const PreparedFrame::Look& look, int orientation);
/// A part of the picture in display orientation, converted to sensor orientation.
Sampling on_sensor(const QRectF& place, double step, const cv::Size& sensor, int orientation);

}  // namespace optrel
