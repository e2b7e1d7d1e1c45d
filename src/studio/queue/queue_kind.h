// SPDX-License-Identifier: GPL-3.0-or-later
// A kind of queued work: what doing a portion means, and how the results are told. All kinds are listed in
// queue_kinds.cpp.
#pragma once

#include <functional>
#include <nlohmann/json.hpp>
#include <stdexcept>
#include <string>
#include <vector>

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

/// A portion that is to be done. `what` is its document, parsed.
struct Work {
    Store& store;
    const QueuedPortion& portion;
    const nlohmann::json& what;
    Progress& progress;
};

/// A job with all its portions.
struct WorkResults {
    const Store& store;
    const QueuedJob& job;
    const std::vector<QueuedPortion>& portions;

    /// Results of the portions that are done, in order. Throws Error(input) for one that is no JSON.
    std::vector<nlohmann::json> done() const;
};

/// The constructor requires all parts, so that a kind without text for its results does not compile.
class QueueKind {
public:
    /// Throws WorkDeferred, RootMissing, Cancelled, and Error for a permanent failure.
    using Do = PortionResult (*)(const Work&);
    /// Adds lines of text: the overall result first. Called when at least one portion is done.
    using Tell = void (*)(const WorkResults&, std::vector<std::string>& lines);

    QueueKind(std::string id, Do doing, Tell telling) : id_(std::move(id)), do_(doing), tell_(telling) {}
    const std::string& id() const { return id_; }
    PortionResult do_portion(const Work& work) const { return do_(work); }
    void tell(const WorkResults& results, std::vector<std::string>& lines) const { tell_(results, lines); }

private:
    std::string id_;
    Do do_;
    Tell tell_;
};

}  // namespace optrel
