// SPDX-License-Identifier: GPL-3.0-or-later
// Copies of frames and films that come into a folder: which there are already, and how new ones are named.
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

/// Frames and films, by their names.
bool taken_along(const std::filesystem::path& file);

/// Those of a folder and of those beneath it, by name; links are not followed. What cannot be looked into is told in
/// `problems`.
std::vector<std::filesystem::path> files_to_copy(const std::filesystem::path& folder,
                                                 std::vector<std::string>& problems);

/// What lies in a folder and beneath it, by its contents.
class FolderContents {
public:
    explicit FolderContents(const std::filesystem::path& folder);
    void add(const std::filesystem::path& file);
    /// One of the same contents as a file. `hash` gives the file's (base/files.h, file_hash), and is asked only where
    /// size and mark (frames/content_mark.h) are the same. Throws Error(file) for a file that cannot be read.
    std::optional<std::filesystem::path> same_as(const std::filesystem::path& file,
                                                 const std::function<std::string()>& hash);

private:
    std::map<std::uintmax_t, std::vector<std::filesystem::path>> by_size_;  ///< only files of one size can be doubles
    std::map<std::filesystem::path, ContentMark> marks_;
    std::map<std::filesystem::path, std::string> hashes_;
};

/// Names of copies, by a pattern of exchange/file_name.h.
class CopyNames {
public:
    /// Throws Error(input) for a pattern that is none. The fleet outlives it.
    CopyNames(std::filesystem::path to, std::string pattern, const Fleet* fleet);

    /// The path that a file should have, by what it says of itself; `name` is what it is called where it comes from.
    std::filesystem::path wanted(const std::filesystem::path& file, const std::filesystem::path& name, int number,
                                 std::string& note) const;
    /// That path or, where it is taken, one with a number behind it. It is given to nobody else.
    std::filesystem::path take(const std::filesystem::path& wanted, std::string& note);

private:
    bool is_taken(const std::filesystem::path& path) const;

    std::filesystem::path to_;
    std::string pattern_;
    const Fleet* fleet_;
    std::set<std::string> given_;  ///< in lower case
};

}  // namespace optrel
