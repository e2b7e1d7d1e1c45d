// SPDX-License-Identifier: GPL-3.0-or-later
// The corrections that a DNG brings along, as bytes.
#pragma once

#include <array>
#include <filesystem>
#include <string>

namespace optrel {

/// OpcodeList1 to 3 of the largest picture in the file; empty where there are none, or where the file cannot be read.
std::array<std::string, 3> read_opcode_lists(const std::filesystem::path& path);

}  // namespace optrel
