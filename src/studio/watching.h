// SPDX-License-Identifier: GPL-3.0-or-later
// Watching folders: what arrives in each is taken in as that folder says.
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
#include "studio/arrivals.h"
#include "studio/intake.h"

namespace optrel {

/// The right to watch the folders that a store keeps; nothing when another program or station does already.
std::unique_ptr<StoreHold> intake_claim(const StoreSource& store);

/// Not thread-safe; holds no store between its looks.
class Watching {
public:
    struct Told {
        std::function<void(const Taken&, const IntakeReport&, const IntakeFolder&)> frame;
        std::function<void(const std::string& sentence)> problem;
    };
    struct Manner {
        std::chrono::milliseconds still{1500};  ///< how long a file has to stand still to count as complete
        bool once = false;                      ///< what is there is taken in, then it is over
        /// Whether the right to watch still is ours; asked before anything is taken in.
        std::function<bool()> ours = [] { return true; };
    };

    /// Throws Error(input) for a set that there is not.
    Watching(StoreSource store, std::vector<IntakeFolder> folders, std::string author, Manner manner, Told told);

    /// Waits for something to happen, for a second at most, and takes in what has arrived. False when it is over: with
    /// Manner::once, when nothing is on its way any more. Throws Cancelled, Error(input) when another one
    /// watches the folders by now, and what is wrong with the store at once;
    /// what may come right (another rollout at work, a share that is gone) is told, and tried again.
    bool step(Progress& progress);
    /// Those that are not complete yet.
    int waiting() const { return arrivals_.waiting(); }

private:
    using Clock = std::chrono::steady_clock;  // clocks of stations jump

    bool wait(std::chrono::milliseconds most, const Progress& progress);
    bool look(Progress& progress);
    bool take_in(const IntakeFolder& folder, const std::vector<std::filesystem::path>& files, Progress& progress);
    void failed(const Taken& taken);
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
    std::optional<Clock::time_point> written_;  ///< when the last rollout was
    Clock::time_point looked_{}, at_work_ = Clock::now();
    bool first_ = true, soon_ = true, retry_ = false;
};

}  // namespace optrel
