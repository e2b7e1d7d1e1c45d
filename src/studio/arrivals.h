// SPDX-License-Identifier: GPL-3.0-or-later
// What has arrived in folders: frames that are there completely and were not seen before.
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
#include "studio/file_stand.h"

namespace optrel {

/// Folders that are looked into again and again. Not thread-safe.
class Arrivals {
public:
    /// `still`: how long a file has to stand still before it counts as complete.
    Arrivals(std::vector<std::filesystem::path> folders, std::chrono::milliseconds still);

    /// Frames that the store knows are no arrivals, unless their file is another one now.
    void know(const std::vector<FrameRecord>& frames);
    /// A file that was dealt with as it stands.
    void done(const std::filesystem::path& file);
    /// Looks once. Returns the frames that are complete, by name: their size and time stand still, and their container
    /// is there to its end. Folders that cannot be looked into and names that cannot be kept are told once each.
    std::vector<std::filesystem::path> look(const Progress& progress);
    /// Those that are not complete yet.
    int waiting() const { return static_cast<int>(waiting_.size()); }
    /// Those that were not complete for so long, a sentence each, once.
    std::vector<std::string> stuck(std::chrono::seconds longer_than);
    /// What went wrong since it was asked last.
    std::vector<std::string> problems();

private:
    using Clock = std::chrono::steady_clock;  // clocks of stations jump
    struct Waiting {
        FileStand stand;
        Clock::time_point still_since, first_seen;
        bool told = false;
    };

    std::vector<std::filesystem::path> folders_;
    std::chrono::milliseconds still_;
    std::unordered_map<std::string, FileStand> dealt_with_;
    std::map<std::filesystem::path, Waiting> waiting_;
    std::set<std::string> told_;
    std::vector<std::string> problems_;
};

/// Waits until something happens in folders, as the system tells it; where it does not (network file systems tell
/// nothing of other stations), for a while.
class FolderWatch {
public:
    explicit FolderWatch(const std::vector<std::filesystem::path>& folders);
    ~FolderWatch();
    FolderWatch(const FolderWatch&) = delete;
    FolderWatch& operator=(const FolderWatch&) = delete;

    /// Returns at the first change, with true, or after `most`.
    bool wait(std::chrono::milliseconds most);
    /// How long a look may be put off while nothing is told: long where every change is.
    std::chrono::milliseconds patience() const;

private:
    void add(const std::filesystem::path& folder);

    int fd_ = -1;
    bool all_told_ = true;
    std::map<int, std::filesystem::path> watched_;
};

}  // namespace optrel
