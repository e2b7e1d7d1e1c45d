// SPDX-License-Identifier: GPL-3.0-or-later
// Roots: folders of frames that several stations see, each under its own path.
//
// A store keeps the path of what lies within a root as "NAME:/..." and gives it to each station under the folder that
// the root has there. What lies in no root is kept under its path, as for a single station. A frame whose root has no
// folder at a station keeps the form NAME:/... there: it stays known, and no file is found under it.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

namespace optrel {

class Engine;

/// Where a root lies at a station.
struct RootPlace {
    std::string root, station;
    std::filesystem::path folder;
    bool operator==(const RootPlace&) const = default;
};

/// The roots of one station, to turn paths into what is kept and back.
class RootMap {
public:
    RootMap() = default;
    explicit RootMap(std::vector<RootPlace> places);
    std::string kept(const std::filesystem::path& path) const;
    std::filesystem::path here(const std::string& kept) const;
    /// The root in a path that has none of its folders here; empty for any other.
    static std::string missing(const std::filesystem::path& path);

private:
    std::vector<RootPlace> places_;  ///< the innermost first
};

class StoredRoots {
public:
    explicit StoredRoots(Engine& engine) : engine_(engine) {}
    /// By root and station.
    std::vector<RootPlace> all();
    /// Says where a root lies at a station. What the store knows within it at this one belongs to it from now on.
    /// Throws Error(input) for a name that is none, or at this station for what is no folder.
    void put(const RootPlace& place);
    /// Throws Error(input) for one that is not there.
    void remove(const std::string& root, const std::string& station);

private:
    void take_in_paths();

    Engine& engine_;
};

}  // namespace optrel
