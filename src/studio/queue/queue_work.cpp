// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/queue/queue_work.h"

#include <fmt/format.h>

#include "base/error.h"
#include "base/parallel.h"
#include "studio/queue/queue_kinds.h"

namespace optrel {

namespace {

/// Delays before a portion is tried here again: when this station cannot do it, and when other portions must come
/// first.
constexpr int elsewhere_seconds = 5, later_seconds = 1;

}  // namespace

QueueWorker::QueueWorker(const StoreSource& store, WorkPolicy willing, std::string name)
    : source_(store),
      policy_(std::move(willing)),
      name_(std::move(name)),
      store_(store.address(), Access::write),
      alive_([this] { keep_alive(); }) {}

QueueWorker::~QueueWorker() {
    {
        std::lock_guard lock(mutex_);
        over_ = true;
    }
    changed_.notify_all();
    alive_.join();
}

void QueueWorker::keep_alive() {
    std::optional<Store> own;
    std::unique_lock lock(mutex_);
    while (!over_) {
        changed_.wait_for(lock, std::chrono::milliseconds(1000 * policy_.lease_seconds / 3));
        if (over_ || !at_work_) continue;
        const QueuedPortion portion = *at_work_;
        lock.unlock();
        bool mine = true;
        try {
            if (!own) own.emplace(source_.address(), Access::write);
            mine = own->queue().renew(portion, policy_.lease_seconds);
        } catch (const std::exception&) {
            own.reset();  // the server cannot be reached; the lease may still be valid when it is back
        }
        lock.lock();
        // The job was cancelled, or the lease was lost.
        if (!mine && at_work_ && at_work_->job == portion.job && at_work_->position == portion.position)
            progress_->cancel();
    }
}

/// A service runs for weeks, and a root may get a folder meanwhile: then deferred portions are tried again.
void QueueWorker::read_roots_again() {
    const long long now = store_.stamps()["roots"];
    if (now == roots_seen_) return;
    store_.read_roots();
    roots_seen_ = now;
    not_here_.clear();
}

std::optional<QueuedPortion> QueueWorker::step(Progress& progress) {
    const SingleThreadScope alone;
    progress.check();
    if (!policy_.hours.hold_now()) return std::nullopt;
    read_roots_again();
    std::optional<QueuedPortion> portion = store_.queue().take(
        name_, policy_.kinds, policy_.lease_seconds, [this](const QueuedPortion& p) { return divided(store_, p); },
        not_here_);
    if (!portion) return std::nullopt;
    Progress own([&](int, int, const std::string&) { progress.check(); });
    const auto at = [&](std::optional<QueuedPortion> now, Progress* its) {
        std::lock_guard lock(mutex_);
        at_work_ = std::move(now);
        progress_ = its;
    };
    at(portion, &own);
    try {
        const PortionResult found = do_portion(store_, *portion, own);
        at(std::nullopt, nullptr);
        Transaction together(store_.engine());
        if (store_.queue().end(*portion, PortionState::done, found.result)) {
            found.keep(store_);
            portion->state = PortionState::done;
            portion->result = found.result;
        }
        together.commit();
    } catch (const Cancelled&) {
        at(std::nullopt, nullptr);
        if (progress.cancelled()) {
            store_.queue().give_back(*portion);
            throw;
        }
    } catch (const RootMissing& elsewhere) {
        at(std::nullopt, nullptr);
        portion->result = elsewhere.what();
        not_here_.insert({portion->job, portion->position});
        store_.queue().give_back(*portion);
    } catch (const WorkDeferred& later) {
        at(std::nullopt, nullptr);
        portion->result = later.what();
        store_.queue().put_off(*portion, later.counted() ? elsewhere_seconds : later_seconds, later.what(),
                               later.counted());
    } catch (const Error& error) {
        at(std::nullopt, nullptr);
        if (error.kind() == ErrorKind::store) throw;
        portion->state = PortionState::failed;
        portion->result = error.what();
        store_.queue().end(*portion, PortionState::failed, error.what());
    } catch (const std::exception& error) {
        at(std::nullopt, nullptr);
        portion->state = PortionState::failed;
        portion->result = fmt::format("What is to be done in job {}, portion {} cannot be read ({}); cancel that job.",
                                      portion->job, portion->position + 1, error.what());
        store_.queue().end(*portion, PortionState::failed, portion->result);
    }
    return portion;
}

}  // namespace optrel
