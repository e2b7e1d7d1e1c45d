// SPDX-License-Identifier: GPL-3.0-or-later
// Background work of which only the newest request counts.
#pragma once

#include <QString>
#include <functional>
#include <memory>
#include <optional>

#include "base/error.h"
#include "base/progress.h"
#include "jobs.h"

namespace optrel {

/// Belongs to the window's thread. Starting new work, or destroying the object, cancels the current work.
template <class Result>
class LatestResult {
public:
    ~LatestResult() { cancel(); }

    bool running() const { return running_ != nullptr; }
    void cancel() {
        if (running_) running_->cancel();
        running_ = nullptr;
    }
    /// `done` gets the result, or the reason why there is none.
    void start(Jobs& jobs, std::function<Result(const Progress&)> work,
               std::function<void(std::optional<Result>, const QString& problem)> done) {
        cancel();
        running_ = std::make_shared<Progress>();
        struct Answer {
            std::optional<Result> result;
            QString problem;
        };
        auto answer = std::make_shared<Answer>();
        jobs.run_quietly(
            [work = std::move(work), answer, progress = running_] {
                try {
                    answer->result = work(*progress);
                } catch (const Cancelled&) {
                } catch (const std::exception& error) {
                    answer->problem = QString::fromUtf8(error.what());
                }
            },
            [this, answer, done = std::move(done), progress = running_] {
                // Cancelled work does not access this object.
                if (progress->cancelled()) return;
                running_ = nullptr;
                done(std::move(answer->result), answer->problem);
            });
    }

private:
    std::shared_ptr<Progress> running_;
};

}  // namespace optrel
