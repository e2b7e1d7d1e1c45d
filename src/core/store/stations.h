// SPDX-License-Identifier: GPL-3.0-or-later
// Who is at the store at this moment, and at what; and the machines behind the names of stations. All by the one clock
// of the store.
#pragma once

#include <string>
#include <vector>

namespace optrel {

class Engine;

/// Somebody who has something open to be edited.
struct Present {
    std::string window;  ///< tells one from all others, also of one person
    std::string author, station;
    std::string kind, subject;  ///< "tier" and its id, for instance
    bool operator==(const Present&) const = default;
};

/// Another machine that goes by this station's name.
struct Namesake {
    std::string author;     ///< who was at it last
    long long seconds = 0;  ///< since it was seen
};

class StoredStations {
public:
    explicit StoredStations(Engine& engine) : engine_(engine) {}

    /// A window has this open. Said again within `lasts_seconds` for as long as it has.
    void at(const Present& present);
    /// A window has nothing open any more.
    void leave(const std::string& window);
    /// All but one window's own, by author and window; whoever was not heard of for a while is not among them.
    std::vector<Present> others(const std::string& window);

    /// This machine works under the name of its station (base/station.h). Machines that did so in the last week under
    /// the same name: what belongs to each by its name alone (roots, exports) would be mixed up.
    std::vector<Namesake> arrive();

    static constexpr int lasts_seconds = 90;

private:
    Engine& engine_;
};

}  // namespace optrel
