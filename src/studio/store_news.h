// SPDX-License-Identifier: GPL-3.0-or-later
// Waiting, without a window, for something to be written to a store.
#pragma once

#include <memory>

#include "base/progress.h"
#include "store/store.h"

namespace optrel {

/// For one thread of a program that has a QCoreApplication.
class StoreNews {
public:
    explicit StoreNews(const StoreSource& source);
    ~StoreNews();
    /// Returns when a station has written, or after seconds: five where the store tells of itself, one where it has to
    /// be asked. Throws Cancelled.
    void wait(Progress& progress);

private:
    struct Ears;
    std::unique_ptr<Ears> ears_;
};

}  // namespace optrel
