// SPDX-License-Identifier: GPL-3.0-or-later
#include "session/work_service.h"

#include <QPointer>
#include <QSettings>
#include <algorithm>
#include <condition_variable>
#include <mutex>
#include <thread>
#include <utility>

#include "jobs.h"
#include "settings_file.h"
#include "studio/queue/check_work.h"
#include "studio/queue/queue_result.h"
#include "studio/queue/worker_pool.h"
#include "window_words.h"

namespace optrel {

namespace {

QString help_file() { return settings_file("station.ini"); }

StationHelp kept_help() {
    StationHelp out;
    const QSettings file(help_file(), QSettings::IniFormat);
    out.on = file.value("help/on", false).toBool();
    out.cores = std::clamp(file.value("help/cores", 1).toInt(), 1, 256);
    try {
        out.hours = day_hours_from(file.value("help/hours").toString().toStdString());
    } catch (const Error&) {
        // The configuration contains another text: the whole day.
    }
    out.kinds = work_kinds();
    const QStringList left_out = file.value("help/not").toStringList();
    std::erase_if(out.kinds, [&](const std::string& kind) { return left_out.contains(QString::fromStdString(kind)); });
    return out;
}

void keep_help(const StationHelp& help) {
    QSettings file(help_file(), QSettings::IniFormat);
    file.setValue("help/on", help.on);
    file.setValue("help/cores", help.cores);
    file.setValue("help/hours", QString::fromStdString(to_string(help.hours)));
    QStringList left_out;
    for (const std::string& kind : work_kinds())
        if (std::find(help.kinds.begin(), help.kinds.end(), kind) == help.kinds.end())
            left_out << QString::fromStdString(kind);
    file.setValue("help/not", left_out);
}

}  // namespace

/// Thread that wakes the workers when there may be new work.
class WorkService::Helper {
public:
    using Told = std::function<void(const QueuedPortion&)>;
    using Problem = std::function<void(const std::string&)>;
    Helper(const StoreSource& source, const StationHelp& help, Told told, Problem problem)
        : thread_([this, source, help, told = std::move(told), problem = std::move(problem)] {
              run(source, help, told, problem);
          }) {}
    ~Helper() {
        progress_.cancel();
        {
            std::lock_guard lock(mutex_);
            over_ = true;
        }
        changed_.notify_all();
        thread_.join();
    }
    void poke() {
        {
            std::lock_guard lock(mutex_);
            poked_ = true;
        }
        changed_.notify_all();
    }

private:
    void run(const StoreSource& source, const StationHelp& help, const Told& told, const Problem& problem) {
        WorkPolicy willing;
        willing.kinds = help.kinds;
        willing.hours = help.hours;
        WorkerPool crew(source, willing, help.cores, progress_, told);
        std::string last;
        for (;;) {
            std::string now;
            for (const std::string& p : crew.rest()) now = p;
            if (!now.empty() && now != last) problem(now);
            last = now;
            std::unique_lock lock(mutex_);
            // Hours may have begun, and deferred portions may be available again, without a notification.
            changed_.wait_for(lock, std::chrono::seconds(5), [this] { return over_ || poked_; });
            if (over_) return;
            poked_ = false;
            lock.unlock();
            crew.look();
        }
    }

    Progress progress_;
    std::mutex mutex_;
    std::condition_variable changed_;
    bool over_ = false, poked_ = false;
    std::thread thread_;
};

WorkService::WorkService(Store& store, Messages& messages, Jobs& jobs)
    : SessionPart(store, messages, {"queue"}), jobs_(jobs), help_(kept_help()) {
    reload();
    begin_helping();
}

WorkService::~WorkService() = default;

int WorkService::open() const {
    return static_cast<int>(std::count_if(all_.begin(), all_.end(), [](const QueuedJob& j) { return !j.ended(); }));
}

void WorkService::reload() {
    // Portions may end many times a second; readings do not overlap.
    if (std::exchange(reading_, true)) {
        again_ = true;
        return;
    }
    auto fresh = std::make_shared<std::vector<QueuedJob>>();
    auto problem = std::make_shared<QString>();
    remember();
    jobs_.run_quietly(
        [=, source = store_.source()] {
            try {
                *fresh = source.open_for_reading()->queue().jobs();
            } catch (const std::exception& error) {
                *problem = q(error.what());
            }
        },
        [=, self = QPointer(this)] {
            if (!self) return;
            self->reading_ = false;
            if (std::exchange(self->again_, false)) self->reload();
            if (!problem->isEmpty()) return self->messages_.tell(*problem, true);
            self->all_ = std::move(*fresh);
            if (self->helper_) self->helper_->poke();
            emit self->changed();
        });
}

void WorkService::look_at(int job, const std::function<void(const std::vector<std::string>&)>& done) {
    auto lines = std::make_shared<std::vector<std::string>>();
    jobs_.run_quietly(
        [=, source = store_.source()] {
            try {
                const auto store = source.open_for_reading();
                *lines = result_in_words(*store, store->queue().job(job), store->queue().results(job));
            } catch (const std::exception& error) {
                *lines = {error.what()};
            }
        },
        [=] { done(*lines); });
}

void WorkService::take_drift(int job) {
    auto report = std::make_shared<DriftReport>();
    jobs_.run(
        "Reading what a check found",
        [=, source = store_.source()](Progress&) {
            const auto store = source.open_for_reading();
            *report = drift_of_job(*store, job);
        },
        [=, self = QPointer(this)] {
            if (self) emit self->found_drift(*report);
        });
}

void WorkService::add(const QString& what, const Add& add) {
    auto number = std::make_shared<int>(0);
    jobs_.run(
        "Putting into the queue",
        [=, source = store_.source()](Progress& progress) {
            Store store = source.open_for_writing();
            *number = add(store, progress);
        },
        [=, self = QPointer(this)] {
            if (!self) return;
            self->messages_.tell(*number == 0
                                     ? QString("%1: there is nothing to be done.").arg(what)
                                     : QString("%1: job %2 waits for a station that helps.").arg(what).arg(*number));
            self->reload();
        });
}

void WorkService::cancel(int job) {
    store_.queue().cancel(job);
    reload();
}

std::vector<RolloutRecord> WorkService::open_rollouts() {
    std::vector<RolloutRecord> out = store_.rollouts().list();
    std::erase_if(out, [](const RolloutRecord& r) { return r.status != RolloutStatus::writing; });
    return out;
}

void WorkService::set_help(const StationHelp& help) {
    if (help == help_) return;
    help_ = help;
    keep_help(help_);
    begin_helping();
    emit helped();
}

void WorkService::begin_helping() {
    // Stopping the workers may take time, so it is not done on the window's thread.
    if (helper_) jobs_.give_back(std::exchange(helper_, nullptr));
    if (!help_.on || help_.kinds.empty() || !store_.writable()) return;
    const auto on_window = [&jobs = jobs_, self = QPointer(this)](auto what) {
        jobs.post([self, what] {
            if (self) what(*self);
        });
    };
    helper_ = std::make_shared<Helper>(
        store_.source(), help_,
        [on_window](const QueuedPortion&) {
            on_window([](WorkService& desk) {
                ++desk.portions_;
                emit desk.helped();
            });
        },
        [on_window](const std::string& problem) {
            on_window([problem](WorkService& desk) { desk.messages_.tell(QString::fromStdString(problem), true); });
        });
}

}  // namespace optrel
