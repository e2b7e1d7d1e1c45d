// SPDX-License-Identifier: GPL-3.0-or-later
// Loops over all cores. The body must not depend on the order of the indices, so that results are the same on any
// machine.
#pragma once

#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

#include <atomic>
#include <condition_variable>
#include <deque>
#include <exception>
#include <mutex>
#include <thread>

namespace optrel {

/// While one lives, loops of its thread run on that thread alone: for the body of a loop over many pieces, each of
/// which is small and is worked at by functions that have loops of their own.
class OnThisThread {
public:
    OnThisThread() : outer_(alone()) { alone() = true; }
    ~OnThisThread() { alone() = outer_; }
    OnThisThread(const OnThisThread&) = delete;
    OnThisThread& operator=(const OnThisThread&) = delete;

    static bool& alone() {
        static thread_local bool it = false;
        return it;
    }

private:
    bool outer_;
};

/// Calls body(i) for each i in [0, n), in grains of `grain` consecutive indices.
template <class Body>
void parallel_for(int n, const Body& body, int grain = 1) {
    if (OnThisThread::alone()) {
        for (int i = 0; i < n; ++i) body(i);
        return;
    }
    tbb::parallel_for(
        tbb::blocked_range<int>(0, n, grain),
        [&](const tbb::blocked_range<int>& range) {
            for (int i = range.begin(); i != range.end(); ++i) body(i);
        },
        tbb::simple_partitioner());
}

/// Calls work(i) for each i in [0, n) on all cores, and taken(i) for each that is done, on the calling thread, as they
/// come: so what belongs to that thread (a store, a list) needs no lock. What either throws ends the loop and is thrown
/// here.
template <class Work, class Taken>
void parallel_for_taking(int n, const Work& work, const Taken& taken, int grain = 1) {
    std::mutex mutex;
    std::condition_variable more;
    std::deque<int> ready;
    bool over = false;
    std::atomic<bool> stop{false};
    std::exception_ptr failure;
    std::thread worker([&] {
        try {
            parallel_for(
                n,
                [&](int i) {
                    if (stop) return;
                    work(i);
                    const std::lock_guard<std::mutex> lock(mutex);
                    ready.push_back(i);
                    more.notify_one();
                },
                grain);
        } catch (...) {
            failure = std::current_exception();
        }
        const std::lock_guard<std::mutex> lock(mutex);
        over = true;
        more.notify_one();
    });
    std::exception_ptr refused;
    for (;;) {
        std::unique_lock<std::mutex> lock(mutex);
        more.wait(lock, [&] { return over || !ready.empty(); });
        if (ready.empty()) break;
        const int i = ready.front();
        ready.pop_front();
        lock.unlock();
        if (refused) continue;
        try {
            taken(i);
        } catch (...) {
            refused = std::current_exception();
            stop = true;
        }
    }
    worker.join();
    if (refused) std::rethrow_exception(refused);
    if (failure) std::rethrow_exception(failure);
}

}  // namespace optrel
