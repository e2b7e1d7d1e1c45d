// SPDX-License-Identifier: GPL-3.0-or-later
// Small pictures that are encoded in sRGB, as a screen shows them.
#pragma once

#include <QImage>

#include "render/screen_colours.h"

namespace optrel {

/// Red first in; dithered to 8 bits. Thread-safe.
QImage screen_image(const cv::Mat3b& srgb, const ScreenColours& colours);
/// The same for an opaque picture of Qt.
QImage screen_image(const QImage& srgb, const ScreenColours& colours);

}  // namespace optrel
