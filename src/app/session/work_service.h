// SPDX-License-Identifier: GPL-3.0-or-later
// The work that the stations of a studio share: what waits and what came of it, putting work in, and this station's
// help while the window is open. Belongs to the window's thread.
#pragma once

#include <functional>
#include <memory>
#include <string>
#include <vector>

#include "base/day_hours.h"
#include "session/session_part.h"
#include "studio/checks/drift.h"

namespace optrel {

class Jobs;

/// What this station is willing to do for the queue.
struct StationHelp {
    bool on = false;
    int cores = 1;
    DayHours hours = {};
    std::vector<std::string> kinds;
    bool operator==(const StationHelp&) const = default;
};

class WorkService : public SessionPart {
    Q_OBJECT
public:
    WorkService(Store& store, Messages& messages, Jobs& jobs);
    ~WorkService() override;

    /// Newest first, as last read.
    const std::vector<QueuedJob>& all() const { return all_; }
    /// Those that have not ended.
    int open() const;
    /// Reads them anew, off the window's thread.
    void reload();
    /// What came of a job, in lines for people, off the window's thread.
    void look_at(int job, const std::function<void(const std::vector<std::string>& lines)>& done);
    /// Reads what a check by the queue found, for whoever shows drift (found_drift()).
    void take_drift(int job);
    /// Puts work in, off the window's thread, and tells what was put in. `add` gives the job's number.
    using Add = std::function<int(Store&, Progress&)>;
    void add(const QString& what, const Add& add);
    /// Throws as StoredQueue::cancel() does.
    void cancel(int job);
    /// The runs and open rollouts that there are, to be put in. Throw as the store does.
    std::vector<RunRecord> runs() { return store_.runs().all(); }
    std::vector<RolloutRecord> open_rollouts();

    const StationHelp& help() const { return help_; }
    /// Begins to help, or ends it: what is under way is given back. Kept for the next time on this machine.
    void set_help(const StationHelp& help);
    /// Portions that this window did.
    int portions_done() const { return portions_; }

signals:
    void found_drift(const DriftReport& report);
    /// This station did a portion, or its help was changed.
    void helped();

private:
    class Helper;
    void begin_helping();

    Jobs& jobs_;
    std::vector<QueuedJob> all_;
    StationHelp help_;
    std::shared_ptr<Helper> helper_;
    bool reading_ = false, again_ = false;  ///< jobs are being read, and are to be read once more
    int portions_ = 0;
};

}  // namespace optrel
