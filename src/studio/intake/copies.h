// SPDX-License-Identifier: GPL-3.0-or-later
// Copies of frames and films into a folder: duplicates and file names.
#pragma once

#include <filesystem>
#include <functional>
#include <map>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include "fleet/fleet.h"

namespace optrel {

/// Whether a path has the name of a frame or film.
bool taken_along(const std::filesystem::path& file);

/// Frames and films of a folder and its subfolders, ordered by name; links are not followed. Unreadable folders are
/// reported in `problems`.
std::vector<std::filesystem::path> files_to_copy(const std::filesystem::path& folder,
                                                 std::vector<std::string>& problems);

/// Index of a folder and its subfolders by contents.
class FolderContents {
public:
    explicit FolderContents(const std::filesystem::path& folder);
    void add(const std::filesystem::path& file);
    /// A file with the same contents. `hash` computes the SHA-256 and is called only when size and fingerprint
    /// (frames/content_mark.h) are equal. Throws Error(file) for an unreadable file.
    std::optional<std::filesystem::path> same_as(const std::filesystem::path& file,
                                                 const std::function<std::string()>& hash);

private:
    std::map<std::uintmax_t, std::vector<std::filesystem::path>>
        by_size_;  ///< only files of equal size can be duplicates
    std::map<std::filesystem::path, ContentMark> marks_;
    std::map<std::filesystem::path, std::string> hashes_;
};

/// File names of copies, by a pattern (exchange/file_name.h).
class CopyNames {
public:
    /// Throws Error(input) for an invalid pattern. The fleet must outlive it.
    CopyNames(std::filesystem::path to, std::string pattern, const Fleet* fleet);

    /// Path for a file, from its metadata; `name` is its original name.
    std::filesystem::path wanted(const std::filesystem::path& file, const std::filesystem::path& name, int number,
                                 std::string& note) const;
    /// That path, or one with a number appended when it is taken. Each path is given once.
    std::filesystem::path take(const std::filesystem::path& wanted, std::string& note);

private:
    bool is_taken(const std::filesystem::path& path) const;

    std::filesystem::path to_;
    std::string pattern_;
    const Fleet* fleet_;
    std::set<std::string> given_;  ///< in lower case
};

}  // namespace optrel
