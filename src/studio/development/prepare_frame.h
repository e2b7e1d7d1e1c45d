// SPDX-License-Identifier: GPL-3.0-or-later
// Prepares a frame for repeated interactive rendering.
#pragma once

#include <filesystem>
#include <memory>

#include "base/progress.h"
#include "frames/metadata.h"
#include "render/prepared_frame.h"
#include "studio/frames/body_measurements.h"

namespace optrel {

/// Reads the frame, with what is known of its sensor. Throws Error(input) as reading does. Thread-safe.
std::shared_ptr<const PreparedFrame> prepare_frame(const std::filesystem::path& path, const Metadata& metadata,
                                                   const SensorFacts& sensor, const Progress& progress);

}  // namespace optrel
