// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/queue/worker_pool.h"

#include <fmt/format.h>
#include <unistd.h>

#include <optional>
#include <utility>

#include "base/station.h"

namespace optrel {

WorkerPool::WorkerPool(const StoreSource& source, WorkPolicy willing, int cores, Progress& progress, Told told)
    : source_(source), policy_(std::move(willing)), progress_(progress), told_(std::move(told)), busy_(cores) {
    for (int core = 0; core < cores; ++core) threads_.emplace_back([this, core] { work(core); });
}

WorkerPool::~WorkerPool() {
    {
        std::lock_guard lock(mutex_);
        over_ = true;
    }
    changed_.notify_all();
    for (std::thread& t : threads_) t.join();
}

std::vector<std::string> WorkerPool::rest() {
    std::unique_lock lock(mutex_);
    changed_.wait(lock, [this] { return busy_ == 0; });
    const std::set<std::string> problems = std::exchange(problems_, {});
    return {problems.begin(), problems.end()};
}

void WorkerPool::look() {
    std::lock_guard lock(mutex_);
    busy_ = static_cast<int>(threads_.size());
    ++round_;
    changed_.notify_all();
}

void WorkerPool::work(int core) {
    std::optional<QueueWorker> worker;
    std::unique_lock lock(mutex_);
    while (!over_) {
        const int round = round_;
        lock.unlock();
        std::string problem;
        try {
            if (!worker) worker.emplace(source_, policy_, fmt::format("{}/{}/{}", this_station(), getpid(), core));
            while (const auto portion = worker->step(progress_)) {
                std::lock_guard one(telling_);
                told_(*portion);
            }
        } catch (const Cancelled&) {
            // The caller of the cancellation knows.
        } catch (const std::exception& error) {
            problem = error.what();
        }
        lock.lock();
        if (!problem.empty()) problems_.insert(problem);
        if (--busy_ == 0) changed_.notify_all();
        changed_.wait(lock, [&] { return over_ || round != round_; });
    }
}

}  // namespace optrel
