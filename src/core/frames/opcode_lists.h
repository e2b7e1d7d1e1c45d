// SPDX-License-Identifier: GPL-3.0-or-later
// Reads the opcode lists of a DNG as bytes.
#pragma once

#include <array>
#include <string>

#include "frames/opened_frame.h"

namespace Exiv2 {
class ExifData;
}

namespace optrel {

/// OpcodeList1 to 3 of the largest picture in the file; empty when there are none or the file cannot be read.
std::array<std::string, 3> read_opcode_lists(const OpenedFrame& frame);
/// The same from metadata that are read already; empty when a tag has the wrong type.
std::array<std::string, 3> opcode_lists_in(const Exiv2::ExifData& exif);

/// Names of the opcodes that correct distortion, colour or falloff, as in the specification, without repetition:
/// "WarpRectilinear, FixVignetteRadial". Reads only the heads of the opcodes.
std::string lens_corrections_in(const std::array<std::string, 3>& lists);

}  // namespace optrel
