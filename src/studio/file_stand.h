// SPDX-License-Identifier: GPL-3.0-or-later
// How a file stands, to see whether it is still the one that was looked at.
#pragma once

#include <filesystem>
#include <optional>

namespace optrel {

struct FileStand {
    long long size = 0, modified = 0;  ///< bytes; as the system counts its times
    bool operator==(const FileStand& o) const = default;
};

/// Nothing where there is no such file.
inline std::optional<FileStand> stand_of(const std::filesystem::path& path) {
    std::error_code failed;
    FileStand out;
    out.size = static_cast<long long>(std::filesystem::file_size(path, failed));
    if (failed) return std::nullopt;
    out.modified = static_cast<long long>(std::filesystem::last_write_time(path, failed).time_since_epoch().count());
    return failed ? std::nullopt : std::optional(out);
}

}  // namespace optrel
