// SPDX-License-Identifier: GPL-3.0-or-later
// Waits for changes in a store, in programs without a window.
#pragma once

#include <memory>

#include "base/progress.h"
#include "store/store.h"

namespace optrel {

/// For one thread of a program with a QCoreApplication.
class StoreNews {
public:
    explicit StoreNews(const StoreSource& source);
    ~StoreNews();
    /// Returns when a station has written, or after five seconds (one second for stores that must be polled). Throws
    /// Cancelled.
    void wait(Progress& progress);

private:
    struct Listener;
    std::unique_ptr<Listener> listener_;
};

}  // namespace optrel
