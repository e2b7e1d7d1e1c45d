// SPDX-License-Identifier: GPL-3.0-or-later
// Long work that a studio shares: jobs in portions, each taken by one station at a time.
//
// Who takes a portion has it for a while (a lease, by the one clock of the store), and says again and again that it is
// at work. A station that dies lets its lease run out, and another takes the portion. What it found is kept in one
// transaction with the mark that the portion is done, and only by who has the lease: nothing is done twice.
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
    int job = 0, position = 0;  ///< positions from 0
    std::string kind, author;   ///< of the job
    std::string document;       ///< what is to be done, as its kind says
    PortionState state = PortionState::waiting;
    std::string worker;  ///< who has it, or had it last
    int tries = 0;       ///< how often it was taken
    std::string result;  ///< of one that is done; of one that failed, why
    std::string noted;   ///< what a worker noted before it wrote anything, for whoever may have to take it up again
};

struct QueuedJob {
    int id = 0;
    std::string kind, title, author, station, time;
    bool cancelled = false;
    int portions = 0, done = 0, failed = 0, at_work = 0;
    bool ended() const { return cancelled || done + failed == portions; }
};

/// What becomes of a portion that was begun too often without an end, as when it kills its worker.
struct DividedPortion {
    std::vector<std::string> portions;  ///< its parts, to be tried alone; none: it cannot be divided
    std::string about;                  ///< of one that cannot be divided: the frame, for a sentence; may be empty
};

class StoredQueue {
public:
    using Divide = std::function<DividedPortion(const QueuedPortion&)>;

    explicit StoredQueue(Engine& engine) : engine_(engine) {}

    /// A new job of who is at this station; its number. Those that were added first are done first. Jobs that ended
    /// long ago are forgotten on this occasion.
    int add(const std::string& kind, const std::string& title, const std::vector<std::string>& portions);
    /// Newest first.
    std::vector<QueuedJob> jobs();
    /// Throws Error(input) for one that is not there.
    QueuedJob job(int id);
    /// In order.
    std::vector<QueuedPortion> portions(int job);
    /// The same without their documents, which may be very long.
    std::vector<QueuedPortion> results(int job);

    /// The next portion of these kinds that nobody works on, for `worker`, for `seconds`. One that was taken
    /// `most_tries` times without an end is divided into parts that are tried alone, and where it cannot be divided it
    /// has failed. `except`: job and position of those that cannot be done here.
    std::optional<QueuedPortion> take(const std::string& worker, const std::vector<std::string>& kinds, int seconds,
                                      const Divide& divide = {}, const std::set<std::pair<int, int>>& except = {});
    /// Whether any of these kinds has not ended, be it waiting or at work somewhere.
    bool any_waits(const std::vector<std::string>& kinds);
    /// Goes on having it. False: it is another's by now, or the job was cancelled.
    bool renew(const QueuedPortion& portion, int seconds);
    /// Ends a portion, within the caller's transaction if there is one. False: it is another's, and nothing of it may
    /// be kept.
    bool end(const QueuedPortion& portion, PortionState state, const std::string& result);
    /// What the other portions of its job have noted.
    std::vector<std::string> noted_beside(const QueuedPortion& portion);
    /// Notes a name that is about to be written under, so that no other portion of its job, nor one of another job that
    /// has not ended, notes the same.
    enum class Noted {
        mine,
        taken,  ///< another portion has noted it
        lost    ///< the portion is another's by now, or was cancelled, and nothing may be written
    };
    Noted note(const QueuedPortion& portion, const std::string& name);
    /// Leaves it to others for so long, since it cannot be done here or now, and says why. Uncounted: it was no try.
    void put_off(const QueuedPortion& portion, int seconds, const std::string& why, bool counted = true);
    /// Gives it back, as who is asked to stop does.
    void give_back(const QueuedPortion& portion);
    /// What is at work is not kept any more. Throws Error(input) for one that is not there.
    void cancel(int job);

    /// How many days a job that ended is kept; what was not settled is 30.
    int days_kept();
    /// Throws Error(input) for less than one, and as StoredSettings::put() does.
    void keep_for(int days);
    /// Forgets jobs that ended longer ago than that; how many.
    int forget_old();

    static constexpr int most_tries = 3;

private:
    void end_job_of(int job);
    void replace(const QueuedPortion& portion, const std::vector<std::string>& parts);

    Engine& engine_;
};

}  // namespace optrel
