// SPDX-License-Identifier: GPL-3.0-or-later
// What a station does of the work that a studio shares (store/queue.h).
#pragma once

#include <condition_variable>
#include <functional>
#include <mutex>
#include <optional>
#include <set>
#include <string>
#include <thread>
#include <vector>

#include "base/day_hours.h"
#include "base/progress.h"
#include "store/store.h"
#include "studio/queue_jobs.h"

namespace optrel {

/// What a station is willing to do.
struct Willing {
    std::vector<std::string> kinds = work_kinds();
    DayHours hours = {};
    int lease_seconds = 60;  ///< after that long without a word it counts as dead
};

/// Does one portion after another, on one core. Its lease is renewed by a thread of its own.
class QueueWorker {
public:
    /// `name` tells it from all others.
    QueueWorker(const StoreSource& store, Willing willing, std::string name);
    ~QueueWorker();
    QueueWorker(const QueueWorker&) = delete;
    QueueWorker& operator=(const QueueWorker&) = delete;

    /// Takes a portion and does it; it comes back with its state and result. Nothing: there is none to be done here
    /// now. Throws Cancelled, after which the portion waits for another, and what the store throws.
    std::optional<QueuedPortion> step(Progress& progress);

private:
    void keep_alive();

    StoreSource source_;
    Willing willing_;
    std::string name_;
    void read_roots_again();

    Store store_;
    long long roots_seen_ = -1;               ///< the stamp of the roots that are known here
    std::set<std::pair<int, int>> not_here_;  ///< job and position of what lies in roots that are not
    std::mutex mutex_;
    std::condition_variable changed_;
    std::optional<QueuedPortion> at_work_;
    Progress* progress_ = nullptr;  ///< of it
    bool over_ = false;
    std::thread alive_;
};

}  // namespace optrel
