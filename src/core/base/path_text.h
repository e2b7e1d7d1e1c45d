// SPDX-License-Identifier: GPL-3.0-or-later
// Lossless conversion between paths and UTF-8 texts.
//
// File names on Linux are bytes and need not be UTF-8. Each byte that does not belong to a valid character is mapped to
// the private use area, U+F780 to U+F7FF. Characters of that area in a name are mapped byte by byte as well, so the
// mapping is one to one.
#pragma once

#include <filesystem>
#include <string>
#include <string_view>

namespace optrel {

std::string path_to_text(std::string_view path);
std::string path_from_text(std::string_view text);

}  // namespace optrel
