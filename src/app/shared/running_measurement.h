// SPDX-License-Identifier: GPL-3.0-or-later
// Runs the measurement of a dialog. Closing the dialog cancels it.
#pragma once

#include <functional>
#include <memory>
#include <mutex>
#include <string>

#include "base/progress.h"

namespace optrel {

class Jobs;

class RunningMeasurement {
public:
    ~RunningMeasurement();
    RunningMeasurement() = default;
    RunningMeasurement(const RunningMeasurement&) = delete;
    RunningMeasurement& operator=(const RunningMeasurement&) = delete;

    bool running() const { return state_ != nullptr; }
    /// Runs `work` on a worker. Then calls `done` on the window's thread with an empty text, or with the sentence that
    /// says why there is no result; not when this object has gone.
    void start(Jobs& jobs, const char* what, std::function<void(Progress&)> work,
               std::function<void(const std::string& problem)> done);

private:
    struct State;
    std::shared_ptr<State> state_;
};

}  // namespace optrel
