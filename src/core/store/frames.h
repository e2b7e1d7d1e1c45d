// SPDX-License-Identifier: GPL-3.0-or-later
// The frames of a store.
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
    long long size = 0, modified = 0;  ///< modification time of the file, to detect changes
    ContentMark mark = {};             ///< fingerprint of the contents (frames/content_mark.h)
};

/// Distinct camera names and lens texts that frames report.
struct Reported {
    std::vector<std::string> models, lenses;
};

class StoredFrames {
public:
    explicit StoredFrames(Engine& engine) : engine_(engine) {}

    /// All frames, ordered by path.
    std::vector<FrameRecord> all() const;
    /// Frames in a range of paths, both ends included; paths as the store keeps them (roots.h).
    std::vector<FrameRecord> within(const std::string& first, const std::string& last) const;
    /// First and last path, as the store keeps them, of a group of consecutive frames.
    struct Span {
        std::string first, last;
        int frames = 0;
    };
    /// Divides all frames into groups of `size`; the last group holds the rest.
    std::vector<Span> spans(int size) const;
    int count() const;
    std::optional<FrameRecord> find(const std::filesystem::path& path) const;
    /// Adds or updates frames. Reported bodies and lenses wait to be claimed, unless `enter` is true: then those with a
    /// serial number are added to the register.
    void put(const std::vector<FrameRecord>& frames, bool enter = false);
    Reported reported() const;
    /// Records that a frame was moved or renamed; a record under the new path is replaced. Returns false when the old
    /// path is unknown.
    bool move(const std::filesystem::path& from, const std::filesystem::path& to);
    /// Current paths of moved frames, by each of their earlier paths.
    std::map<std::string, std::filesystem::path> moves() const;

private:
    Engine& engine_;
};

}  // namespace optrel
