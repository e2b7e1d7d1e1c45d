// SPDX-License-Identifier: GPL-3.0-or-later
// A short mark of a file's contents, by which a frame that was moved or renamed is known again.
#pragma once

#include <filesystem>
#include <string>

namespace optrel {

/// Of the size and of three pieces of 64 KB: the first, that in the middle and the last (FNV-1a of 64 bits, as 16
/// hexadecimal digits). Two frames of one burst differ in it, since their pictures do. Throws Error(file).
std::string content_mark(const std::filesystem::path& path);

}  // namespace optrel
