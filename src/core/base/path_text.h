// SPDX-License-Identifier: GPL-3.0-or-later
// Paths as texts that a store, a document and a window can keep, whatever bytes a name is made of.
//
// Names on Linux are bytes, and some are no UTF-8. Of such a name each byte that belongs to no character stands as a
// character of the private use area, U+F780 to U+F7FF by its value; where a name has such a character of its own, that
// one's bytes stand so too. So each path has one text, and each text that was made here one path.
#pragma once

#include <filesystem>
#include <string>
#include <string_view>

namespace optrel {

std::string path_to_text(std::string_view path);
std::string path_from_text(std::string_view text);

}  // namespace optrel
