// SPDX-License-Identifier: GPL-3.0-or-later
// Watched folders, what each does with a new frame, and what has arrived.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "base/day_hours.h"

namespace optrel {

class Engine;

/// A folder that is watched, with those beneath it.
struct IntakeFolder {
    std::filesystem::path folder;
    std::string set;          ///< of the baseline, to lie on top; empty: none
    std::string set_until;    ///< UTC, as times are written everywhere; after that the set is left out; empty: always
    bool only_index = false;  ///< frames become known and wait for a person
    bool raw_only = false;    ///< rendered pictures become known and wait
    bool unknown_waits = false;  ///< raw frames of a body that is not known wait
    DayHours hours;              ///< when frames are taken in; those that arrive at another time wait for it
    bool on = true;
    std::string author, time;  ///< who said so, and when
    bool operator==(const IntakeFolder&) const = default;
};

/// One frame that arrived.
struct ArrivalRecord {
    std::string time;  ///< UTC
    std::string way;   ///< "folder", "card", "cable"
    std::filesystem::path frame;
    std::string what;  ///< "baseline", "known", "failed"
    std::string why;   ///< why it waits or failed, in words
    std::string body, set;
    int revision = 0, rollout = 0;
};

class StoredIntake {
public:
    explicit StoredIntake(Engine& engine) : engine_(engine) {}

    /// By folder.
    std::vector<IntakeFolder> folders();
    /// Replaces that of the same folder. Throws Error(input) for a folder that is none or cannot be kept by name, a set
    /// that ends without being named, or one that lies in another watched folder, or holds one: its frames would be
    /// taken in twice.
    void put(const IntakeFolder& folder);
    /// Throws Error(input) where there is none.
    void remove(const std::filesystem::path& folder);

    void log(const std::vector<ArrivalRecord>& arrivals);
    /// Newest first.
    std::vector<ArrivalRecord> newest(int most);
    /// Those whose baselines a rollout wrote.
    std::vector<ArrivalRecord> of_rollout(int number);

private:
    std::vector<ArrivalRecord> read(const std::string& which, int value);

    Engine& engine_;
};

}  // namespace optrel
