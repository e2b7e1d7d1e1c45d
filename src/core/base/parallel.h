// SPDX-License-Identifier: GPL-3.0-or-later
// Parallel loops over all cores. The body must not depend on the order of the indices, so that results are the same on
// every machine.
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

/// While an object exists, parallel loops on its thread run sequentially. For the bodies of outer parallel loops that
/// call functions with loops of their own.
class SingleThreadScope {
public:
    SingleThreadScope() : outer_(alone()) { alone() = true; }
    ~SingleThreadScope() { alone() = outer_; }
    SingleThreadScope(const SingleThreadScope&) = delete;
    SingleThreadScope& operator=(const SingleThreadScope&) = delete;

    static bool& alone() {
        static thread_local bool it = false;
        return it;
    }

private:
    bool outer_;
};

/// Calls body(i) for each i in [0, n), in blocks of `grain` consecutive indices.
template <class Body>
void parallel_for(int n, const Body& body, int grain = 1) {
    if (SingleThreadScope::alone()) {
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

/// Calls work(i) for each i in [0, n) on all cores, and taken(i) for each finished index on the calling thread, so that
/// taken() may use objects of that thread (a store, a list) without a lock. An exception from either ends the loop and
/// is rethrown here.
template <class Work, class ArrivalResult>
void parallel_for_taking(int n, const Work& work, const ArrivalResult& taken, int grain = 1) {
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
