// SPDX-License-Identifier: GPL-3.0-or-later
#include "shared/running_measurement.h"

#include "jobs.h"

namespace optrel {

struct RunningMeasurement::State {
    std::mutex mutex;
    Progress* progress = nullptr;  ///< of the worker
    bool unwanted = false;

    /// False when nobody waits for it any more.
    bool begin(Progress& of) {
        const std::lock_guard lock(mutex);
        progress = &of;
        return !unwanted;
    }
    void end() {
        const std::lock_guard lock(mutex);
        progress = nullptr;
    }
    void give_up() {
        const std::lock_guard lock(mutex);
        unwanted = true;
        if (progress) progress->cancel();
    }
};

RunningMeasurement::~RunningMeasurement() {
    if (state_) state_->give_up();
}

void RunningMeasurement::start(Jobs& jobs, const char* what, std::function<void(Progress&)> work,
                               std::function<void(const std::string& problem)> done) {
    state_ = std::make_shared<State>();
    const auto problem = std::make_shared<std::string>();
    jobs.run(
        what,
        [work = std::move(work), problem, state = state_](Progress& progress) {
            try {
                if (state->begin(progress)) work(progress);
            } catch (const Cancelled&) {
                *problem = "The measurement was cancelled.";
            } catch (const std::exception& error) {
                *problem = error.what();
            }
            state->end();
        },
        [this, done = std::move(done), problem, state = state_] {
            if (state->unwanted) return;
            state_ = nullptr;
            done(*problem);
        });
}

}  // namespace optrel
