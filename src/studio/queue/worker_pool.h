// SPDX-License-Identifier: GPL-3.0-or-later
// Pool of queue workers, one for each core that the station provides.
#pragma once

#include <condition_variable>
#include <functional>
#include <mutex>
#include <set>
#include <string>
#include <thread>
#include <vector>

#include "studio/queue/queue_work.h"

namespace optrel {

class WorkerPool {
public:
    using Told = std::function<void(const QueuedPortion&)>;
    /// `told`: called with each finished portion, from any thread, one at a time. Cancelling the progress stops all
    /// workers.
    WorkerPool(const StoreSource& source, WorkPolicy willing, int cores, Progress& progress, Told told);
    ~WorkerPool();
    WorkerPool(const WorkerPool&) = delete;
    WorkerPool& operator=(const WorkerPool&) = delete;

    /// Waits until no worker finds work; returns each distinct problem once.
    std::vector<std::string> rest();
    /// Wakes the workers, because there may be new work.
    void look();

private:
    void work(int core);

    const StoreSource source_;
    const WorkPolicy policy_;
    Progress& progress_;
    const Told told_;
    std::mutex mutex_, telling_;
    std::condition_variable changed_;
    std::set<std::string> problems_;
    int busy_, round_ = 0;
    bool over_ = false;
    std::vector<std::thread> threads_;
};

}  // namespace optrel
