// SPDX-License-Identifier: GPL-3.0-or-later
// The small picture that the file of a frame holds beside its samples (Exif 2.32, 4.5.8; DNG 1.6, previews).
#pragma once

#include <opencv2/core.hpp>
#include <optional>

#include "frames/opened_frame.h"

namespace optrel {

/// The embedded JPEG whose longer side is the smallest with at least `side` px, else the largest; a JPEG frame stands
/// for itself. Reduced to `side` px, red first, encoded as the file has it (sRGB in practice), in the sensor's rows and
/// columns. Empty when the file has none that can be decoded, or cannot be read at all. Never throws for a bad file.
std::optional<cv::Mat3b> embedded_preview(const OpenedFrame& frame, int side);

}  // namespace optrel
