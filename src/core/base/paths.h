// SPDX-License-Identifier: GPL-3.0-or-later
// Helpers for paths and folders.
#pragma once

#include <filesystem>
#include <functional>
#include <string>
#include <vector>

namespace optrel {

/// Absolute, normalised path without a trailing slash, so that equal places compare equal (except through links). Empty
/// for an empty path.
std::filesystem::path plain_path(const std::filesystem::path& path);

/// Whether a path lies inside a folder, at any depth. The folder itself does not. Both must be absolute and normalised.
bool lies_within(const std::filesystem::path& path, const std::filesystem::path& folder);

/// Calls visit(entry) for each file in a folder and its subfolders. Hidden entries are skipped, and links to folders
/// are not followed, because they could form a cycle. Unreadable folders are reported in `problems`, one sentence each.
void walk_files(const std::filesystem::path& folder,
                const std::function<void(const std::filesystem::directory_entry&)>& visit,
                std::vector<std::string>& problems);

}  // namespace optrel
