// SPDX-License-Identifier: GPL-3.0-or-later
// Raw copies: DNG files with the unchanged mosaic and the correction as opcodes.
#pragma once

#include "studio/exports/export_result.h"

namespace optrel {

/// Limits above which a raw copy reports that the opcodes are not accurate enough.
inline constexpr double carried_px = 0.02, carried_percent = 0.2;

/// Writes the copy; remarks list parts of the correction that opcodes cannot represent or not accurately enough. Throws
/// Error(input) for a rendered picture, and as reading and writing do. `unchanged` throws when the frame has changed
/// meanwhile.
Exported write_frame_copy(const std::filesystem::path& frame, const FrameDevelopment& facts, const Delivery& delivery,
                          const std::filesystem::path& out, Existing existing, const Progress& progress,
                          const std::function<void()>& unchanged);

}  // namespace optrel
