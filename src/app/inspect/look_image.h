// SPDX-License-Identifier: GPL-3.0-or-later
// Between pictures on the sensor and pictures as they are held, on the screen.
#pragma once

#include <QImage>
#include <QRectF>

#include "render/prepared_frame.h"

namespace optrel {

/// As it is held; transparent where it is empty.
QImage image_of(const PreparedFrame::Look& look, int orientation);
/// A part of the picture as it is held, as samples on the sensor.
Sampling on_sensor(const QRectF& place, double step, const cv::Size& sensor, int orientation);

}  // namespace optrel
