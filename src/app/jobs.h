// SPDX-License-Identifier: GPL-3.0-or-later
// Long work off the window's thread, one job after another, with count, remaining time and cancel.
#pragma once

#include <QElapsedTimer>
#include <QObject>
#include <QThreadPool>
#include <deque>
#include <functional>
#include <memory>

#include "base/progress.h"

namespace optrel {

class Jobs : public QObject {
    Q_OBJECT
public:
    Jobs();
    ~Jobs() override;

    /// Queues a job. `work` runs on a worker and may throw; `done` runs on the window's thread afterwards, only when it
    /// went well.
    void run(const QString& title, std::function<void(Progress&)> work, std::function<void()> done);
    /// For short reads that nobody wants to watch; not queued, not cancellable. `done` is always called.
    void run_quietly(std::function<void()> work, std::function<void()> done);

    /// Lets go of something on a worker: what very many frames hold takes longer than the window may stop.
    template <class T>
    void give_back(T what) {
        run_quietly([kept = std::make_shared<T>(std::move(what))]() mutable { kept.reset(); }, [] {});
    }

    /// Runs something on the window's thread, from a worker: Jobs lives until its workers are done, which a place need
    /// not.
    void post(std::function<void()> what);

    /// Short writes, one after another in the order of the calls, whatever else is under way. Failures are told by
    /// failed().
    void run_in_order(std::function<void()> write);

    bool busy() const { return running_ != nullptr; }
    /// True while quiet work is under way as well.
    bool active() const { return busy() || quiet_ > 0; }
    int waiting() const { return static_cast<int>(queue_.size()); }
    void cancel();

signals:
    void progressed(const QString& text, int done, int total);
    void idle();
    void failed(const QString& why);

private:
    struct Job {
        QString title;
        std::function<void(Progress&)> work;
        std::function<void()> done;
        std::unique_ptr<Progress> progress;
    };
    void next();
    void start_quiet(QThreadPool& pool, std::function<void()> work, std::function<void()> done);
    void attempt(const std::function<void()>& what);
    void finish(const QString& error);
    void report(int done, int total, const QString& what);

    std::deque<std::shared_ptr<Job>> queue_;
    std::shared_ptr<Job> running_;
    QElapsedTimer since_start_, since_report_;
    QThreadPool pool_, quiet_pool_, write_pool_;
    int quiet_ = 0;
};

}  // namespace optrel
