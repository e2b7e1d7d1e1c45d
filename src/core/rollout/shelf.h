// SPDX-License-Identifier: GPL-3.0-or-later
// Where rollouts are kept, with all that is needed to finish one or to take it back. A store brings one; what is done
// with it stands in rollout.h.
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

/// preparing: stopped before the first sidecar was touched. damaged: its record cannot be read.
enum class RolloutStatus { preparing, writing, done, rolling_back, rolled_back, damaged };
std::string to_string(RolloutStatus status);
/// Throws Error(input) for a name that is none of a rollout that began.
RolloutStatus rollout_status_named(const std::string& name);

struct RolloutRecord {
    int number = 0;
    int revision = 0;  ///< 0: of one that takes back
    std::string author, time;
    int frames = 0;
    std::string station;  ///< where it was begun; empty: by a version that did not keep it
    std::string scope;    ///< in words; empty: all frames
    DayHours hours;       ///< when it may write
    int takes_back = 0;   ///< the rollout of which it takes back a part; 0: none
    /// The station that is at work on it at this moment, where that is known. Set by list() alone.
    std::string running_at = {};
    RolloutStatus status = RolloutStatus::writing;
    std::string problem;  ///< of a damaged one
};

/// The sidecar of one frame before and after; nothing: there is none then.
struct RolloutEntry {
    KeptPath frame;
    std::optional<SharedText> before, after;
};

/// Another rollout is at work on frames that were asked for; they can be had later.
class FramesInUse : public Error {
public:
    explicit FramesInUse(const std::string& message) : Error(ErrorKind::input, message) {}
};

class RolloutShelf {
public:
    /// Held while somebody works on frames by a rollout. It is a lease: whoever is stopped for longer than it lasts
    /// loses it, and another may take the frames.
    class Claim {
    public:
        virtual ~Claim() = default;
        enum class Standing {
            mine,
            lost,    ///< another one has the frames by now, so nothing more may be written
            unknown  ///< the store cannot be asked just now
        };
        /// Asks the store, and renews the lease when it has to be.
        virtual Standing ask() = 0;
        /// Whether the lease has not run out since it was last renewed, by a clock that runs on while the program is
        /// stopped. It costs nothing, so that it can be looked at right before a file takes its place.
        virtual bool valid() const = 0;
        /// Says which rollout it is for, so that list() can tell where that one runs. It is for people to see: where it
        /// cannot be kept, nothing is thrown.
        virtual void is_for(int rollout) = 0;
    };

    virtual ~RolloutShelf() = default;
    /// Newest first. A damaged one is listed as such.
    virtual std::vector<RolloutRecord> list() = 0;
    /// One rollout or roll back works on a frame at a time. `who`: "A rollout of T. Ester". Throws
    /// FramesInUse that names who is at work on one of these.
    virtual std::unique_ptr<Claim> claim(const std::vector<std::filesystem::path>& frames, const std::string& who) = 0;
    /// What a plan is known by where a second person has to approve it: SHA-256 of it as it will be kept. Empty where
    /// nobody has to.
    virtual std::string plan_hash(const std::vector<RolloutEntry>&) { return {}; }
    /// Keeps a new rollout, durably, under a number of its own that is set in the record; its status is `writing` then.
    /// When it throws, nothing of it is left.
    virtual void begin(RolloutRecord& record, const std::vector<RolloutEntry>& entries) = 0;
    /// Keeps one of another store under its number, in its state; one that is there already stays.
    virtual void keep(const RolloutRecord& record, const std::vector<RolloutEntry>& entries) = 0;
    /// As it is now. Throws Error(store) when it is damaged.
    virtual RolloutRecord record(int number) = 0;
    /// Throws Error(store) when they are damaged.
    virtual std::vector<RolloutEntry> entries(const RolloutRecord& record) = 0;
    virtual void set_status(int number, RolloutStatus status) = 0;
    /// Marks one that never began as taken back: there is nothing to restore. Throws Error(input) for one that is about
    /// to begin.
    virtual void give_up(int number) = 0;
};

}  // namespace optrel
