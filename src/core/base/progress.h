// SPDX-License-Identifier: GPL-3.0-or-later
// Progress and cancellation of long work.
//
// Every long function of the core takes a Progress. It reports the number of finished units from any thread, and calls
// check() at least every 100 ms of work, so that a cancellation takes effect at once.
#pragma once

#include <atomic>
#include <functional>
#include <mutex>
#include <string>

#include "base/error.h"

namespace optrel {

class Progress {
public:
    using Listener = std::function<void(int done, int total, const std::string& what)>;

    Progress() = default;
    explicit Progress(Listener listener) : listener_(std::move(listener)) {}

    /// Begins a stage of `total` units with a short description ("Measuring frames").
    void start(int total, const std::string& what) {
        std::lock_guard<std::mutex> lock(mutex_);
        done_ = 0;
        total_ = total;
        what_ = what;
        if (listener_) listener_(done_, total_, what_);
    }
    /// Reports one finished unit.
    void step() {
        std::lock_guard<std::mutex> lock(mutex_);
        ++done_;
        if (listener_) listener_(done_, total_, what_);
    }
    void cancel() { cancelled_ = true; }
    bool cancelled() const { return cancelled_; }
    /// Throws Cancelled after cancel() was called.
    void check() const {
        if (cancelled_) throw Cancelled();
    }

private:
    Listener listener_;
    std::mutex mutex_;
    std::atomic<bool> cancelled_{false};
    int done_ = 0;
    int total_ = 0;
    std::string what_;
};

}  // namespace optrel
