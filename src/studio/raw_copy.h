// SPDX-License-Identifier: GPL-3.0-or-later
// Raw copies: the mosaic as it is, with the frame's correction in the opcodes of the open raw format.
#pragma once

#include "studio/exporting.h"

namespace optrel {

/// Beyond these a raw copy says that its form does not suffice for the lens.
inline constexpr double carried_px = 0.02, carried_percent = 0.2;

/// Writes the copy; remarks say what of the correction it cannot carry, and where the opcodes do not suffice. Throws
/// Error(input) for a rendered picture, and as reading and writing do. `unchanged` throws when the frame is no longer
/// what it was.
Exported write_frame_copy(const std::filesystem::path& frame, const FrameDevelopment& facts, const Delivery& delivery,
                          const std::filesystem::path& out, Existing existing, const Progress& progress,
                          const std::function<void()>& unchanged);

}  // namespace optrel
