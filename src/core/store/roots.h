// SPDX-License-Identifier: GPL-3.0-or-later
// Roots: folders of frames that several stations see under different paths.
//
// A store keeps a path inside a root as "NAME:/..." and converts it to the folder of the root at each station. Paths
// outside all roots are kept unchanged. At a station where a root has no folder, its frames keep the form NAME:/...:
// they stay known, but no file can be opened.
#pragma once

#include <string>
#include <vector>

#include "store/root_map.h"

namespace optrel {

class Engine;

class StoredRoots {
public:
    explicit StoredRoots(Engine& engine) : engine_(engine) {}
    /// All roots, ordered by name and station.
    std::vector<RootPlace> all() const;
    /// Sets the folder of a root at a station. For this station, known paths inside the folder are converted to the
    /// root. Throws Error(input) for an invalid name, or when the folder does not exist at this station.
    void put(const RootPlace& place);
    /// Throws Error(input) for an unknown root.
    void remove(const std::string& root, const std::string& station);

private:
    void take_in_paths();

    Engine& engine_;
};

/// Reads the roots of this station into an engine.
void read_roots(Engine& engine);

}  // namespace optrel
