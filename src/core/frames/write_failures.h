// SPDX-License-Identifier: GPL-3.0-or-later
// Messages for files that cannot be written, common to all writers.
#pragma once
#include <filesystem>

namespace optrel {

/// Throws Error(file) about `wanted`, when a byte of its temporary file could not be written.
[[noreturn]] void disk_full(const std::filesystem::path& wanted);
/// Throws Error(file) about `wanted`, when its temporary file could not be created.
[[noreturn]] void no_folder(const std::filesystem::path& wanted);

}  // namespace optrel
