// SPDX-License-Identifier: GPL-3.0-or-later
// Bundles that lay in folders of frames when these were taken in: they wait for a person until they were looked at.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

namespace optrel {

class Engine;

struct FoundBundle {
    std::filesystem::path path;
    std::string hash;  ///< SHA-256 of the file
    bool settled = false;
};

class StoredFoundBundles {
public:
    explicit StoredFoundBundles(Engine& engine) : engine_(engine) {}

    /// Those that wait, by path.
    std::vector<FoundBundle> waiting() const;
    /// One that lies there. The same file again changes nothing; another one in its place waits again.
    void found(const std::filesystem::path& path, const std::string& hash);
    /// Somebody took it in or put it aside.
    void settle(const std::filesystem::path& path, const std::string& what, const std::string& author);

private:
    Engine& engine_;
};

}  // namespace optrel
