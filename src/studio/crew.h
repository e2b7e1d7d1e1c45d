// SPDX-License-Identifier: GPL-3.0-or-later
// The cores of a station at work for the queue that a studio shares: each with a worker of its own, which lives as long
// as the station works.
#pragma once

#include <condition_variable>
#include <functional>
#include <mutex>
#include <set>
#include <string>
#include <thread>
#include <vector>

#include "studio/queue_work.h"

namespace optrel {

class Crew {
public:
    using Told = std::function<void(const QueuedPortion&)>;
    /// `told`: each portion that one of them is done with, from any thread, one at a time. Progress ends all of them.
    Crew(const StoreSource& source, Willing willing, int cores, Progress& progress, Told told);
    ~Crew();
    Crew(const Crew&) = delete;
    Crew& operator=(const Crew&) = delete;

    /// Waits until none finds anything to be done; what went wrong meanwhile, each once.
    std::vector<std::string> rest();
    /// There may be something to be done again.
    void look();

private:
    void work(int core);

    const StoreSource source_;
    const Willing willing_;
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
