// SPDX-License-Identifier: GPL-3.0-or-later
// Carries out a portion of each kind of job.
#pragma once

#include <functional>
#include <stdexcept>
#include <string>

#include "base/progress.h"
#include "store/store.h"

namespace optrel {

/// The portion cannot be done here or now: files are missing, or other portions must be done first.
class WorkDeferred : public std::runtime_error {
public:
    explicit WorkDeferred(const std::string& why, bool counted = true) : std::runtime_error(why), counted_(counted) {}
    /// Whether this counts as a failed try; waiting for other portions or for frames in use does not.
    bool counted() const { return counted_; }

private:
    bool counted_;
};

/// A root has no folder at this station; other stations should do it, until the roots change.
class RootMissing : public WorkDeferred {
public:
    explicit RootMissing(const std::string& why) : WorkDeferred(why, false) {}
};

/// Result as JSON, and a function that saves it in the transaction that ends the portion.
struct PortionResult {
    std::string result;
    std::function<void(Store&)> keep = [](Store&) {};
};

/// Splits a portion that kills its workers.
DividedPortion divided(Store& store, const QueuedPortion& portion);

/// Throws WorkDeferred, RootMissing, Cancelled, and Error for a permanent failure.
PortionResult do_portion(Store& store, const QueuedPortion& portion, Progress& progress);

}  // namespace optrel
