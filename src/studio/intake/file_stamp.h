// SPDX-License-Identifier: GPL-3.0-or-later
// Size and modification time of a file, to detect changes.
#pragma once

#include <filesystem>
#include <optional>

namespace optrel {

struct FileStamp {
    long long size = 0, modified = 0;  ///< bytes; time in units of the file system
    bool operator==(const FileStamp& o) const = default;
};

/// Nothing when the file does not exist.
inline std::optional<FileStamp> stamp_of(const std::filesystem::path& path) {
    std::error_code failed;
    FileStamp out;
    out.size = static_cast<long long>(std::filesystem::file_size(path, failed));
    if (failed) return std::nullopt;
    out.modified = static_cast<long long>(std::filesystem::last_write_time(path, failed).time_since_epoch().count());
    return failed ? std::nullopt : std::optional(out);
}

}  // namespace optrel
