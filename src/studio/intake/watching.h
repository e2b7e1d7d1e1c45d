// SPDX-License-Identifier: GPL-3.0-or-later
// Watches folders and takes in new frames by the folders' rules.
#pragma once

#include <chrono>
#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include "store/store.h"
#include "studio/intake/arrivals.h"
#include "studio/intake/intake.h"

namespace optrel {

/// Exclusive right to watch the folders of a store; null when another program or station has it.
std::unique_ptr<StoreHold> intake_claim(const StoreSource& store);

/// Not thread-safe. Opens the store only while it works.
class Watching {
public:
    struct Told {
        std::function<void(const ArrivalResult&, const IntakeReport&, const IntakeFolder&)> frame;
        std::function<void(const std::string& sentence)> problem;
    };
    struct Manner {
        std::chrono::milliseconds still{1500};  ///< time without a change after which a file counts as complete
        bool once = false;                      ///< take in existing files once, then end
        /// Whether the exclusive right is still held; checked before each intake.
        std::function<bool()> ours = [] { return true; };
    };

    /// Throws Error(input) for an unknown set.
    Watching(StoreSource store, std::vector<IntakeFolder> folders, std::string author, Manner manner, Told told);

    /// Waits up to a second for changes and takes in new frames. Returns false when finished (with Manner::once, when
    /// no file is incomplete any more). Throws Cancelled, Error(input) when another program has taken over, and errors
    /// of the store; temporary problems (another rollout, a missing share) are reported and retried.
    bool step(Progress& progress);
    /// Files that are not yet complete.
    int waiting() const { return arrivals_.waiting(); }

private:
    using Clock = std::chrono::steady_clock;  // a steady clock, because clocks of stations can jump

    bool wait(std::chrono::milliseconds most, const Progress& progress);
    bool look(Progress& progress);
    bool take_in(const IntakeFolder& folder, const std::vector<std::filesystem::path>& files, Progress& progress);
    void failed(const ArrivalResult& taken);
    bool later(const std::filesystem::path& file, Clock::time_point now) const;

    StoreSource store_;
    std::vector<IntakeFolder> folders_;
    std::string author_;
    Manner manner_;
    Told told_;
    Arrivals arrivals_;
    FolderWatch watch_;
    std::set<std::string> told_of_;
    std::map<std::filesystem::path, Clock::time_point> not_before_;
    std::string last_failure_;
    std::optional<Clock::time_point> written_;  ///< time of the last rollout
    Clock::time_point looked_{}, at_work_ = Clock::now();
    bool first_ = true, soon_ = true, retry_ = false;
};

}  // namespace optrel
