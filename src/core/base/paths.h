// SPDX-License-Identifier: GPL-3.0-or-later
// Helpers for paths and folders.
#pragma once

#include <filesystem>
#include <functional>
#include <optional>
#include <string>
#include <vector>

namespace optrel {

/// Absolute, normalised path without a trailing slash, so that equal places compare equal (except through links). Empty
/// for an empty path.
std::filesystem::path plain_path(const std::filesystem::path& path);

/// Follows all links in a path, so that two paths of one file or folder become equal. The last parts of the path need
/// not exist. Returns nothing when a link cannot be followed, for example in a loop of links.
std::optional<std::filesystem::path> resolved_path(const std::filesystem::path& path);

/// Whether both paths lead to one file or folder, also through links and hard links. False when one does not exist.
bool same_file(const std::filesystem::path& a, const std::filesystem::path& b);

/// Whether a path lies inside a folder, at any depth. The folder itself does not. Both must be absolute and normalised.
bool lies_within(const std::filesystem::path& path, const std::filesystem::path& folder);

/// Calls visit(entry) for each file in a folder and its subfolders. Hidden entries are skipped, and links to folders
/// are not followed, because they could form a cycle. Unreadable folders are reported in `problems`, one sentence each.
void walk_files(const std::filesystem::path& folder,
                const std::function<void(const std::filesystem::directory_entry&)>& visit,
                std::vector<std::string>& problems);

}  // namespace optrel
