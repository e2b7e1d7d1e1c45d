// SPDX-License-Identifier: GPL-3.0-or-later
// Worker for the queue (store/queue.h).
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
#include "studio/queue/queue_jobs.h"

namespace optrel {

/// Which work a station does, and when.
struct WorkPolicy {
    std::vector<std::string> kinds = work_kinds();
    DayHours hours = {};
    int lease_seconds = 60;  ///< the lease; without renewal for this time, the worker counts as dead
};

/// Works on one portion at a time, on one core. A background thread renews the lease.
class QueueWorker {
public:
    /// `name`: unique name of the worker.
    QueueWorker(const StoreSource& store, WorkPolicy willing, std::string name);
    ~QueueWorker();
    QueueWorker(const QueueWorker&) = delete;
    QueueWorker& operator=(const QueueWorker&) = delete;

    /// Takes a portion and works on it; returns it with state and result. Empty: no portion can be done here now.
    /// Throws Cancelled, after which the portion is free again, and errors of the store.
    std::optional<QueuedPortion> step(Progress& progress);

private:
    void keep_alive();

    StoreSource source_;
    WorkPolicy policy_;
    std::string name_;
    void read_roots_again();

    Store store_;
    long long roots_seen_ = -1;               ///< change counter of the known roots
    std::set<std::pair<int, int>> not_here_;  ///< portions (job, position) in roots without a folder here
    std::mutex mutex_;
    std::condition_variable changed_;
    std::optional<QueuedPortion> at_work_;
    Progress* progress_ = nullptr;  ///< progress of the current portion
    bool over_ = false;
    std::thread alive_;
};

}  // namespace optrel
