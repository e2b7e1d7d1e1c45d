// SPDX-License-Identifier: GPL-3.0-or-later
// Which users are active in a store, and which machine uses which station name. All times are by the store's clock.
#pragma once

#include <string>
#include <vector>

namespace optrel {

class Engine;

/// A user who has something open for editing.
struct Present {
    std::string window;  ///< identifies one window, also among windows of the same user
    std::string author, station;
    std::string kind, subject;  ///< for example "tier" and its id
    bool operator==(const Present&) const = default;
};

/// Another machine that uses the name of this station.
struct StationNameConflict {
    std::string author;     ///< last user at that machine
    long long seconds = 0;  ///< seconds since that machine was last seen
};

class StoredStations {
public:
    explicit StoredStations(Engine& engine) : engine_(engine) {}

    /// Announces what a window has open. Must be repeated within `lasts_seconds`.
    void at(const Present& present);
    /// Ends the announcement of a window.
    void leave(const std::string& window);
    /// Announcements of all other windows, ordered by author and window; expired ones are left out.
    std::vector<Present> others(const std::string& window) const;

    /// Registers this machine under its station name (base/station.h). Returns machines that used the same name in the
    /// last week: their roots and exports would be mixed up with ours, because both are stored by station name.
    std::vector<StationNameConflict> arrive();

    static constexpr int lasts_seconds = 90;

private:
    Engine& engine_;
};

}  // namespace optrel
