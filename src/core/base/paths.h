// SPDX-License-Identifier: GPL-3.0-or-later
// Paths and folders.
#pragma once

#include <filesystem>
#include <functional>
#include <string>
#include <vector>

namespace optrel {

/// Absolute and normal, without a slash at its end: two names of one place are the same then, but for links. Of an
/// empty path it is empty.
std::filesystem::path plain_path(const std::filesystem::path& path);

/// Whether a path lies in a folder or in one beneath it; the folder itself does not. Both are absolute and normal.
bool lies_within(const std::filesystem::path& path, const std::filesystem::path& folder);

/// Calls visit(entry) for everything in a folder and in those beneath it that is no folder. What is hidden is passed
/// over, and links to folders are not followed, since they could lead round in a circle. Folders that cannot be looked
/// into are told in `problems`, a sentence each.
void walk_files(const std::filesystem::path& folder,
                const std::function<void(const std::filesystem::directory_entry&)>& visit,
                std::vector<std::string>& problems);

}  // namespace optrel
