// SPDX-License-Identifier: GPL-3.0-or-later
// Storage of rollouts, with everything that is needed to finish one or to roll it back. Each engine implements it;
// rollout.h uses it.
#pragma once

#include <filesystem>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "base/day_hours.h"
#include "base/error.h"
#include "base/kept_path.h"
#include "base/shared_text.h"

namespace optrel {

/// preparing: interrupted before the first sidecar was touched. damaged: the record cannot be read.
enum class RolloutStatus { preparing, writing, done, rolling_back, rolled_back, damaged };
std::string to_string(RolloutStatus status);
/// Throws Error(input) for an unknown name.
RolloutStatus rollout_status_named(const std::string& name);

struct RolloutRecord {
    int number = 0;
    int revision = 0;  ///< 0 for a rollback of a part
    std::string author, time;
    int frames = 0;
    std::string station;  ///< station where it began; empty for old records
    std::string scope;    ///< description; empty: all frames
    DayHours hours;       ///< hours in which it may write
    int takes_back = 0;   ///< the rollout that this one partly rolls back; 0: none
    /// Station that is working on it now, if known. Only list() sets it.
    std::string running_at = {};
    RolloutStatus status = RolloutStatus::writing;
    std::string problem;  ///< what is wrong with a damaged record
};

/// Sidecar of one frame before and after; nothing means no sidecar.
struct RolloutEntry {
    KeptPath frame;
    std::optional<SharedText> before, after;
};

/// Another rollout holds a lease on requested frames; try again later.
class FramesInUse : public Error {
public:
    explicit FramesInUse(const std::string& message) : Error(ErrorKind::input, message) {}
};

class RolloutStore {
public:
    /// Lease on the frames of a rollout. A process that is suspended longer than the lease lasts loses it, and another
    /// process may take the frames.
    class Lease {
    public:
        virtual ~Lease() = default;
        enum class Standing {
            mine,
            lost,    ///< another process holds the frames; nothing more may be written
            unknown  ///< the store cannot be reached now
        };
        /// Asks the store, and renews the lease when necessary.
        virtual Standing ask() = 0;
        /// Whether the lease has not expired since the last renewal, by a clock that continues during suspension. Needs
        /// no access to the store, so it can be checked directly before a file is renamed.
        virtual bool valid() const = 0;
        /// Sets the rollout that the lease is for, so that list() can show where it runs. Only informative: failures
        /// are ignored.
        virtual void is_for(int rollout) = 0;
    };

    virtual ~RolloutStore() = default;
    /// All rollouts, newest first, including damaged ones.
    virtual std::vector<RolloutRecord> list() const = 0;
    /// Leases frames, exclusively. `who`: for messages, for example "A rollout of T. Ester". Throws FramesInUse with
    /// the current holder.
    virtual std::unique_ptr<Lease> lease(const std::vector<std::filesystem::path>& frames, const std::string& who) = 0;
    /// SHA-256 of the stored form of a plan, by which a second person approves it. Empty when the engine needs no
    /// approval.
    virtual std::string plan_hash(const std::vector<RolloutEntry>&) const { return {}; }
    /// Stores a new rollout durably with the status `writing`, and sets its number in the record. When it throws,
    /// nothing remains.
    virtual void begin(RolloutRecord& record, const std::vector<RolloutEntry>& entries) = 0;
    /// Stores a rollout of another store under the same number and status; an existing one is kept.
    virtual void keep(const RolloutRecord& record, const std::vector<RolloutEntry>& entries) = 0;
    /// Current record. Throws Error(store) when it is damaged.
    virtual RolloutRecord record(int number) const = 0;
    /// Throws Error(store) when the entries are damaged.
    virtual std::vector<RolloutEntry> entries(const RolloutRecord& record) const = 0;
    virtual void set_status(int number, RolloutStatus status) = 0;
    /// Marks a rollout in preparation as rolled back; there is nothing to restore. Throws Error(input) when it is just
    /// beginning.
    virtual void give_up(int number) = 0;
};

}  // namespace optrel
