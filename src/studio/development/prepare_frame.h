// SPDX-License-Identifier: GPL-3.0-or-later
// Prepares a frame for repeated interactive rendering.
#pragma once

#include <filesystem>
#include <memory>

#include "base/progress.h"
#include "frames/metadata.h"
#include "render/prepared_frame.h"

namespace optrel {

/// Reads the frame. Throws Error(input) as reading does. Thread-safe.
std::shared_ptr<const PreparedFrame> prepare_frame(const std::filesystem::path& path, const Metadata& metadata,
                                                   const Progress& progress);

}  // namespace optrel
