// SPDX-License-Identifier: GPL-3.0-or-later
// Doing one portion of the work that a studio shares, whatever its kind.
#pragma once

#include <functional>
#include <stdexcept>
#include <string>

#include "base/progress.h"
#include "store/store.h"

namespace optrel {

/// Files are not to be had at this station, or others have to be done before: somebody else may do it, or later.
class NotNow : public std::runtime_error {
public:
    explicit NotNow(const std::string& why, bool counted = true) : std::runtime_error(why), counted_(counted) {}
    /// Whether it was a try that failed; other portions that come first, or frames in use, are none.
    bool counted() const { return counted_; }

private:
    bool counted_;
};

/// A root has no folder at this station: it is for others, until the roots change.
class NotHere : public NotNow {
public:
    explicit NotHere(const std::string& why) : NotNow(why, false) {}
};

/// What was found, as JSON, and how it is kept: in one transaction with the end of its portion.
struct FoundInPortion {
    std::string result;
    std::function<void(Store&)> keep = [](Store&) {};
};

/// Divides a portion that kills whoever works on it.
DividedPortion divided(Store& store, const QueuedPortion& portion);

/// Throws NotNow, NotHere, Cancelled, and Error where it cannot be done at all.
FoundInPortion do_portion(Store& store, const QueuedPortion& portion, Progress& progress);

}  // namespace optrel
