// SPDX-License-Identifier: GPL-3.0-or-later
// The corrections that a DNG brings along, as bytes.
#pragma once

#include <array>
#include <string>

#include "frames/opened_frame.h"

namespace Exiv2 {
class ExifData;
}

namespace optrel {

/// OpcodeList1 to 3 of the largest picture in the file; empty where there are none, or where the file cannot be read.
std::array<std::string, 3> read_opcode_lists(const OpenedFrame& frame);
/// The same of a file whose metadata are read already; empty where a tag is not what it should be.
std::array<std::string, 3> opcode_lists_in(const Exiv2::ExifData& exif);

/// Those of them that correct distortion, colour or falloff, by their names in the specification, each once:
/// "WarpRectilinear, FixVignetteRadial". Only the heads of the opcodes are looked at.
std::string lens_corrections_in(const std::array<std::string, 3>& lists);

}  // namespace optrel
