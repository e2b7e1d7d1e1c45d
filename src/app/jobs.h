// SPDX-License-Identifier: GPL-3.0-or-later
// Long work on worker threads, one job after another, with progress, remaining time and cancellation.
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

    /// Queues a job. `work` runs on a worker and may throw; `done` runs on the window's thread afterwards, only on
    /// success.
    void run(const QString& title, std::function<void(Progress&)> work, std::function<void()> done);
    /// For short reads without progress display; they are not queued and cannot be cancelled. `done` is always called.
    void run_quietly(std::function<void()> work, std::function<void()> done);

    /// Destroys a large object on a worker, because that can take longer than the window may block.
    template <class T>
    void give_back(T what) {
        run_quietly([kept = std::make_shared<T>(std::move(what))]() mutable { kept.reset(); }, [] {});
    }

    /// Runs a function on the window's thread, called from a worker. Jobs outlives its workers, which a place need not.
    void post(std::function<void()> what);

    /// Short writes, executed in the order of the calls. Failures are reported by failed().
    void run_in_order(std::function<void()> write);

    bool busy() const { return running_ != nullptr; }
    /// True also during run_quietly().
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
