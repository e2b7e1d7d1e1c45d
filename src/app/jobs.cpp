// SPDX-License-Identifier: GPL-3.0-or-later
#include "jobs.h"
#include "window_words.h"

#include <QMetaObject>

namespace optrel {

Jobs::Jobs() {
    pool_.setMaxThreadCount(1);
    quiet_pool_.setMaxThreadCount(2);
    write_pool_.setMaxThreadCount(1);
}

Jobs::~Jobs() {
    queue_.clear();
    if (running_) running_->progress->cancel();
    pool_.waitForDone();
    quiet_pool_.waitForDone();
    write_pool_.waitForDone();
}

void Jobs::run(const QString& title, std::function<void(Progress&)> work, std::function<void()> done) {
    auto job = std::make_shared<Job>();
    job->title = title;
    job->work = std::move(work);
    job->done = std::move(done);
    job->progress = std::make_unique<Progress>([this](int n, int total, const std::string& what) {
        const QString text = QString::fromStdString(what);
        QMetaObject::invokeMethod(
            this, [=, this] { report(n, total, text); }, Qt::QueuedConnection);
    });
    queue_.push_back(job);
    if (!running_) next();
}

void Jobs::run_quietly(std::function<void()> work, std::function<void()> done) {
    start_quiet(quiet_pool_, std::move(work), std::move(done));
}

void Jobs::post(std::function<void()> what) {
    QMetaObject::invokeMethod(
        this, [this, what = std::move(what)] { attempt(what); }, Qt::QueuedConnection);
}

/// The follow-up may throw as well; exceptions must not leave the event loop.
void Jobs::attempt(const std::function<void()>& what) {
    try {
        what();
    } catch (const std::exception& error) {
        emit failed(q(error.what()));
    }
}

void Jobs::run_in_order(std::function<void()> write) {
    start_quiet(write_pool_, std::move(write), [] {});
}

void Jobs::start_quiet(QThreadPool& pool, std::function<void()> work, std::function<void()> done) {
    ++quiet_;
    pool.start([this, work = std::move(work), done = std::move(done)] {
        try {
            work();
        } catch (const std::exception& error) {
            const QString why = q(error.what());
            QMetaObject::invokeMethod(
                this, [=, this] { emit failed(why); }, Qt::QueuedConnection);
        }
        QMetaObject::invokeMethod(
            this,
            [=, this] {
                --quiet_;
                attempt(done);
            },
            Qt::QueuedConnection);
    });
}

void Jobs::next() {
    if (queue_.empty()) {
        emit idle();
        return;
    }
    running_ = queue_.front();
    queue_.pop_front();
    emit progressed(running_->title, 0, 0);
    pool_.start([this, job = running_] {
        QString error;
        try {
            job->work(*job->progress);
        } catch (const std::exception& e) {
            error = q(e.what());
        }
        job->work = nullptr;  // the captured data may be large, and is destroyed here, not on the window's thread
        QMetaObject::invokeMethod(
            this, [=, this] { finish(error); }, Qt::QueuedConnection);
    });
}

void Jobs::finish(const QString& error) {
    const std::shared_ptr<Job> job = std::move(running_);
    running_ = nullptr;
    if (error.isEmpty() && !job->progress->cancelled())
        attempt(job->done);
    else
        emit failed(error.isEmpty() ? QString::fromUtf8(Cancelled().what()) : error);
    if (!running_) next();
}

void Jobs::report(int done, int total, const QString& what) {
    if (!running_ || total <= 0) return;
    if (done == 0) since_start_.start();
    if (done != 0 && done != total && since_report_.isValid() && since_report_.elapsed() < 80) return;
    since_report_.start();
    QString text = QString("%1  %2 of %3").arg(what).arg(done).arg(total);
    if (done > 0 && done < total && since_start_.isValid()) {
        const double each = since_start_.elapsed() / 1000.0 / done, left = each * (total - done);
        if (each > 0 && each < 0.5) text += QString(", %1 a second").arg(static_cast<int>(1 / each + 0.5));
        text += left < 90 ? QString(", about %1 s left").arg(std::max(1, static_cast<int>(left + 0.5)))
                          : QString(", about %1 min left").arg(static_cast<int>(left / 60 + 0.5));
    }
    if (!queue_.empty()) text += QString(", %1 waiting").arg(queue_.size());
    emit progressed(text, done, total);
}

void Jobs::cancel() {
    if (running_) running_->progress->cancel();
}

}  // namespace optrel
