// SPDX-License-Identifier: GPL-3.0-or-later
// Converts paths between this station and the store (roots.h).
#pragma once

#include <filesystem>
#include <string>
#include <vector>

namespace optrel {

/// Folder of a root at a station.
struct RootPlace {
    std::string root, station;
    std::filesystem::path folder;
    bool operator==(const RootPlace&) const = default;
};

/// The roots of one station.
class RootMap {
public:
    RootMap() = default;
    explicit RootMap(std::vector<RootPlace> places);
    std::string kept(const std::filesystem::path& path) const;
    std::filesystem::path here(const std::string& kept) const;
    /// Name of the root in a kept path that has no folder at this station; empty for any other path.
    static std::string missing(const std::filesystem::path& path);

private:
    std::vector<RootPlace> places_;  ///< innermost folder first
};

}  // namespace optrel
