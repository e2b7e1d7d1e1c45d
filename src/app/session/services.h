// SPDX-License-Identifier: GPL-3.0-or-later
// What a place may do with the parts of the store: the runs, and the rollouts. Both belong to the window's thread; what
// takes long is done by workers with handles of their own.
#pragma once

#include <QObject>
#include <atomic>
#include <functional>
#include <memory>
#include <vector>

#include "rollout/rollout.h"
#include "store/store.h"
#include "studio/rollout/rolling.h"

namespace optrel {

class Jobs;

/// The measuring runs.
class RunService : public QObject {
    Q_OBJECT
public:
    RunService(Store& store, Jobs& jobs) : store_(store), jobs_(jobs) {}

    /// Newest first. Throws as the store does.
    std::vector<RunRecord> all() { return store_.runs().all(); }
    /// Keeps a run, and gives a new one its id.
    void keep(RunRecord& run) { run.id = store_.runs().put(run); }
    /// Runs that measure bodies; the same for them.
    std::vector<BodyRun> all_of_bodies() { return store_.body_runs().all(); }
    void keep(BodyRun& run) { run.id = store_.body_runs().put(run); }
    void save(const BodyRun& run);
    /// Saves a run that has an id, off the window's thread, in the order of the calls.
    void save(const RunRecord& run);
    /// The same for one frame of it, without waiting for work that is under way; nothing that is saved later is
    /// overtaken.
    void save_frame(int run, int position, const RunFrame& frame);

signals:
    /// Runs came by another way than through here.
    void changed();

private:
    Store& store_;
    Jobs& jobs_;
};

/// The rollouts: what was done, and doing it. `done` is called on the window's thread with what became of it.
class RolloutService {
public:
    RolloutService(Store& store, Jobs& jobs) : store_(store), jobs_(jobs) {}

    using Done = std::function<void(const RolloutReport&)>;
    /// For a worker, which opens the store for itself.
    const StoreSource& source() const { return store_.source(); }
    /// Newest first.
    std::vector<RolloutRecord> list() { return store_.rollouts().list(); }
    void roll_out(std::shared_ptr<const Rehearsal> rehearsal, const std::string& scope, const DayHours& hours,
                  const Done& done);
    /// Whatever is being written stops behind the sidecar that it is at, and waits to be gone on with.
    void pause() { *paused_ = true; }
    void go_on(int number, bool at_once, bool leave_gone, const Done& done);
    void again(int number, const Done& done);
    void take_back(int number, bool leave_gone, const Done& done);
    void take_back_part(int number, const FrameScope& scope, const Done& done);
    /// What a rollout changed.
    void difference(int number, std::function<void(std::shared_ptr<const Rehearsal>, const RehearsalCounts&)> done);
    /// Stopped ones that keep to hours and may go on now.
    std::vector<RolloutRecord> due() { return due_rollouts(store_); }
    /// Scopes by their names. Throws as the store does.
    std::map<std::string, FrameScope> selections();
    void keep_selection(const std::string& name, const FrameScope& scope);

private:
    /// `access`: what the work needs of the database; going on and taking back only read, since a full disk may be why
    /// they are asked for.
    using Work = std::function<RolloutReport(Store&, Progress&, const MayGoOn&)>;
    void work(const QString& title, const Work& what, const Done& done);

    Store& store_;
    Jobs& jobs_;
    std::shared_ptr<std::atomic<bool>> paused_ = std::make_shared<std::atomic<bool>>(false);  ///< workers ask it
};

}  // namespace optrel
