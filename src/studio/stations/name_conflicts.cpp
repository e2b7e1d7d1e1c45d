// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/stations/name_conflicts.h"

#include <fmt/format.h>

#include "base/station.h"
#include "base/words.h"

namespace optrel {
namespace {

std::string ago(long long seconds) {
    if (seconds < 120) return "just now";
    if (seconds < 2 * 3600) return fmt::format("{} minutes ago", seconds / 60);
    if (seconds < 48 * 3600) return fmt::format("{} hours ago", seconds / 3600);
    return fmt::format("{} days ago", seconds / (24 * 3600));
}

}  // namespace

std::vector<std::string> name_conflicts_in_words(const std::vector<StationNameConflict>& namesakes) {
    std::vector<std::string> out;
    for (const StationNameConflict& n : namesakes)
        out.push_back(fmt::format(
            "Another machine is called '{}' too ({} was at it {}), and roots and exports of the two would be mixed up; "
            "give one of them another name with the variable OPTREL_STATION.",
            printable(this_station()), printable(n.author), ago(n.seconds)));
    return out;
}

}  // namespace optrel
