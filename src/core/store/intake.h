// SPDX-License-Identifier: GPL-3.0-or-later
// Watched folders, their rules for new frames, and the log of arrivals.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "base/day_hours.h"

namespace optrel {

class Engine;

/// A watched folder, including its subfolders.
struct IntakeFolder {
    std::filesystem::path folder;
    std::string set;             ///< set that is put on top of the baseline; empty: none
    std::string set_until;       ///< UTC (ISO 8601); the set is not applied after this time; empty: no limit
    bool only_index = false;     ///< only index new frames; a person rolls them out
    bool raw_only = false;       ///< only index rendered pictures
    bool unknown_waits = false;  ///< only index raw frames of unknown bodies
    DayHours hours;              ///< hours in which frames are taken in; frames that arrive at other times wait
    bool on = true;
    std::string author, time;  ///< who configured the folder, and when
    bool operator==(const IntakeFolder&) const = default;
};

/// One arrived frame.
struct ArrivalRecord {
    std::string time;  ///< UTC
    std::string way;   ///< way: "folder", "card" or "cable"
    std::filesystem::path frame;
    std::string what;  ///< result: "baseline", "known" or "failed"
    std::string why;   ///< reason why the frame waits or failed
    std::string body, set;
    int revision = 0, rollout = 0;
};

class StoredIntake {
public:
    explicit StoredIntake(Engine& engine) : engine_(engine) {}

    /// All watched folders, ordered by path.
    std::vector<IntakeFolder> folders() const;
    /// Adds a folder or replaces its rules. Throws Error(input) for a path that is no folder or cannot be stored, for
    /// an end time without a set, and for a folder inside or around another watched folder, whose frames would be taken
    /// in twice.
    void put(const IntakeFolder& folder);
    /// Throws Error(input) for an unknown folder.
    void remove(const std::filesystem::path& folder);

    void log(const std::vector<ArrivalRecord>& arrivals);
    /// Newest entries first.
    std::vector<ArrivalRecord> newest(int most) const;
    /// Entries of frames whose baseline a rollout wrote.
    std::vector<ArrivalRecord> of_rollout(int number) const;

private:
    std::vector<ArrivalRecord> read(const std::string& which, int value) const;

    Engine& engine_;
};

}  // namespace optrel
