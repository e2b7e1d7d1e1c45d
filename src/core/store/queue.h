// SPDX-License-Identifier: GPL-3.0-or-later
// The work queue of a studio: jobs, divided into portions that stations take one at a time.
//
// A station takes a portion with a lease (timed by the store's clock) and renews it while it works. When a station
// dies, its lease expires and another station takes the portion. The result of a portion and its end are saved in one
// transaction, and only for the current lease holder, so no portion takes effect twice.
#pragma once

#include <functional>
#include <optional>
#include <set>
#include <string>
#include <utility>
#include <vector>

namespace optrel {

class Engine;

enum class PortionState { waiting, done, failed };
std::string to_string(PortionState state);

struct QueuedPortion {
    int job = 0, position = 0;  ///< position within the job, from 0
    std::string kind, author;   ///< kind and author of the job
    std::string document;       ///< what to do; the kind defines the format
    PortionState state = PortionState::waiting;
    std::string worker;  ///< current or last lease holder
    int tries = 0;       ///< number of times that the portion was taken
    std::string result;  ///< result when done; reason when failed
    std::string noted;   ///< note that a worker left before it wrote anything, for whoever takes over
};

struct QueuedJob {
    int id = 0;
    std::string kind, title, author, station, time;
    bool cancelled = false;
    int portions = 0, done = 0, failed = 0, at_work = 0;
    bool ended() const { return cancelled || done + failed == portions; }
};

/// How a portion is split after it was taken too often without an end, for example because it kills its worker.
struct DividedPortion {
    std::vector<std::string> portions;  ///< parts to try one by one; empty: the portion cannot be split
    std::string about;                  ///< the frame to name in the message when it cannot be split; may be empty
};

class StoredQueue {
public:
    using Divide = std::function<DividedPortion(const QueuedPortion&)>;

    explicit StoredQueue(Engine& engine) : engine_(engine) {}

    /// Adds a job in the name of the current author and returns its number. Jobs run in the order in which they were
    /// added. Also deletes expired jobs (forget_old()).
    int add(const std::string& kind, const std::string& title, const std::vector<std::string>& portions);
    /// All jobs, newest first.
    std::vector<QueuedJob> jobs() const;
    /// Throws Error(input) for an unknown job.
    QueuedJob job(int id) const;
    /// All portions, in order.
    std::vector<QueuedPortion> portions(int job) const;
    /// The same without documents, which may be very long.
    std::vector<QueuedPortion> results(int job) const;

    /// Takes the next free portion of these kinds for `worker`, with a lease of `seconds`. A portion that was taken
    /// `most_tries` times without an end is split by `divide`, or fails when it cannot be split. `except`: portions
    /// (job, position) that this station cannot do.
    std::optional<QueuedPortion> take(const std::string& worker, const std::vector<std::string>& kinds, int seconds,
                                      const Divide& divide = {}, const std::set<std::pair<int, int>>& except = {});
    /// Whether any job of these kinds is unfinished.
    bool any_waits(const std::vector<std::string>& kinds) const;
    /// Renews the lease. Returns false when the lease is lost or the job was cancelled.
    bool renew(const QueuedPortion& portion, int seconds);
    /// Ends a portion, inside the caller's transaction if there is one. Returns false when the lease is lost; then the
    /// caller must discard the result.
    bool end(const QueuedPortion& portion, PortionState state, const std::string& result);
    /// Notes of the other portions of the same job.
    std::vector<std::string> noted_beside(const QueuedPortion& portion) const;
    /// Reserves an output name, so that no other portion of this job or of another unfinished job uses it.
    enum class Noted {
        mine,
        taken,  ///< another portion has reserved the name
        lost    ///< the lease is lost or the job was cancelled; nothing may be written
    };
    Noted note(const QueuedPortion& portion, const std::string& name);
    /// Releases a portion that cannot be done here or now, for at least `seconds`, with the reason. When `counted` is
    /// false, the attempt does not count as a try.
    void put_off(const QueuedPortion& portion, int seconds, const std::string& why, bool counted = true);
    /// Releases a portion without a delay, as a worker does that is asked to stop.
    void give_back(const QueuedPortion& portion);
    /// Cancels a job; portions that are being worked on are discarded. Throws Error(input) for an unknown job.
    void cancel(int job);

    /// Number of days that a finished job is kept; 30 when nothing is configured.
    int days_kept() const;
    /// Throws Error(input) for less than one day, and as StoredSettings::put() does.
    void keep_for(int days);
    /// Deletes finished jobs that are older than that; returns how many.
    int forget_old();

    static constexpr int most_tries = 3;

private:
    void end_job_of(int job);
    void replace(const QueuedPortion& portion, const std::vector<std::string>& parts);

    Engine& engine_;
};

}  // namespace optrel
