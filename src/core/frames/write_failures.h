// SPDX-License-Identifier: GPL-3.0-or-later
// What is said when a file cannot be written, once for all writers.
#pragma once
#include <filesystem>

namespace optrel {

/// Throw FileError about the file that was wanted, when a byte of its part could not be written.
[[noreturn]] void disk_full(const std::filesystem::path& wanted);
/// Throw FileError about the file that was wanted, when its part could not even be made.
[[noreturn]] void no_folder(const std::filesystem::path& wanted);

}  // namespace optrel
