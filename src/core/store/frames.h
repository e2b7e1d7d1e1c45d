// SPDX-License-Identifier: GPL-3.0-or-later
// The frames that a store knows of.
#pragma once

#include <filesystem>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "base/kept_path.h"
#include "frames/content_mark.h"
#include "frames/kept_metadata.h"

namespace optrel {

class Engine;

struct FrameRecord {
    KeptPath path;
    KeptMetadata metadata;
    long long size = 0, modified = 0;  ///< of the file, to see whether it changed
    ContentMark mark = {};             ///< of its contents
};

/// Camera names and lens texts that frames report, each once.
struct Reported {
    std::vector<std::string> models, lenses;
};

class StoredFrames {
public:
    explicit StoredFrames(Engine& engine) : engine_(engine) {}

    /// By path.
    std::vector<FrameRecord> all();
    /// Those from one path to another, both as the store keeps them (roots.h) and included.
    std::vector<FrameRecord> within(const std::string& first, const std::string& last);
    /// Paths as the store keeps them, of the first and the last of so many frames that follow one another.
    struct Span {
        std::string first, last;
        int frames = 0;
    };
    /// All frames in spans of `size`, the last one of what is left.
    std::vector<Span> spans(int size);
    int count();
    std::optional<FrameRecord> find(const std::filesystem::path& path);
    /// Adds or renews frames. What they report of bodies and lenses waits to be claimed, unless `enter` puts what has a
    /// serial number into the register at once.
    void put(const std::vector<FrameRecord>& frames, bool enter = false);
    Reported reported();
    /// A frame lies elsewhere now, or has another name. What was known of the new path goes. False where the store does
    /// not know the old one.
    bool move(const std::filesystem::path& from, const std::filesystem::path& to);
    /// Where frames lie now that were moved, by where they lay at any time before.
    std::map<std::string, std::filesystem::path> moves();

private:
    Engine& engine_;
};

}  // namespace optrel
