// SPDX-License-Identifier: GPL-3.0-or-later
// Runs that measure a body: their frames and the result.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

namespace optrel {

class Engine;

struct BodyRunFrame {
    std::filesystem::path path;
    bool dropped = false;  ///< left out by a person

    friend bool operator==(const BodyRunFrame&, const BodyRunFrame&) = default;
};

struct BodyRun {
    int id = 0;
    std::string kind = "noise";  ///< kind of measurement that the run makes
    std::string name;
    std::filesystem::path folder;  ///< empty: frames were chosen one by one
    std::vector<BodyRunFrame> frames;
    std::string result;  ///< document of the measurement; empty until the frames are measured

    /// Frames that are not dropped.
    std::vector<std::filesystem::path> used() const;
};

class StoredBodyRuns {
public:
    explicit StoredBodyRuns(Engine& engine) : engine_(engine) {}

    /// All runs, newest first. Runs that cannot be read are left out.
    std::vector<BodyRun> all() const;
    /// Saves a run; id 0 adds a new one. Returns the id. Does nothing when a run with an id no longer exists. Frames
    /// that another program added meanwhile are kept.
    int put(const BodyRun& run);

private:
    Engine& engine_;
};

}  // namespace optrel
