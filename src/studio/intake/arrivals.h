// SPDX-License-Identifier: GPL-3.0-or-later
// Detects new, complete frames in folders.
#pragma once

#include <chrono>
#include <filesystem>
#include <map>
#include <set>
#include <string>
#include <unordered_map>
#include <vector>

#include "base/progress.h"
#include "store/frames.h"
#include "studio/intake/file_stamp.h"

namespace optrel {

/// Folders that are scanned repeatedly. Not thread-safe.
class Arrivals {
public:
    /// `still`: time without a change after which a file counts as complete.
    Arrivals(std::vector<std::filesystem::path> folders, std::chrono::milliseconds still);

    /// Marks frames of the store as known, unless their file has changed.
    void know(const std::vector<FrameRecord>& frames);
    /// Marks a file in its current state as handled.
    void done(const std::filesystem::path& file);
    /// Scans once. Returns complete frames, ordered by name: size and time have stopped changing, and the container has
    /// its end. Unreadable folders and unusable names are reported once each.
    std::vector<std::filesystem::path> look(const Progress& progress);
    /// Files that are not yet complete.
    int waiting() const { return static_cast<int>(waiting_.size()); }
    /// Files that have been incomplete for too long, one sentence each, reported once.
    std::vector<std::string> stuck(std::chrono::seconds longer_than);
    /// Problems since the last call.
    std::vector<std::string> problems();

private:
    using Clock = std::chrono::steady_clock;  // a steady clock, because clocks of stations can jump
    struct Waiting {
        FileStamp stand;
        Clock::time_point still_since, first_seen;
        bool told = false;
    };

    std::vector<std::filesystem::path> folders_;
    std::chrono::milliseconds still_;
    std::unordered_map<std::string, FileStamp> dealt_with_;
    std::map<std::filesystem::path, Waiting> waiting_;
    std::set<std::string> told_;
    std::vector<std::string> problems_;
};

/// Waits for changes in folders by inotify; for file systems without notifications (network file systems), waits for a
/// fixed time.
class FolderWatch {
public:
    explicit FolderWatch(const std::vector<std::filesystem::path>& folders);
    ~FolderWatch();
    FolderWatch(const FolderWatch&) = delete;
    FolderWatch& operator=(const FolderWatch&) = delete;

    /// Returns true at the first change, otherwise false after `most`.
    bool wait(std::chrono::milliseconds most);
    /// Interval between scans while nothing is reported: long where every change is reported.
    std::chrono::milliseconds patience() const;

private:
    void add(const std::filesystem::path& folder);

    int fd_ = -1;
    bool all_told_ = true;
    std::map<int, std::filesystem::path> watched_;
};

}  // namespace optrel
