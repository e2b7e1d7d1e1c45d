// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/stations.h"

#include <fmt/format.h>

#include "base/station.h"
#include "store/engine.h"

namespace optrel {

void StoredStations::at(const Present& p) {
    const std::string now = engine_.seconds_in_sql();
    Transaction transaction(engine_);
    engine_.run(fmt::format("DELETE FROM presence WHERE seen < {} - {}", now, 10 * lasts_seconds));
    engine_.run(fmt::format("INSERT INTO presence (window_id, author, station, kind, subject, seen) VALUES (?, ?, ?, "
                            "?, ?, {}) ON CONFLICT (window_id) DO UPDATE SET author = excluded.author, station = "
                            "excluded.station, kind = excluded.kind, subject = excluded.subject, seen = excluded.seen",
                            now),
                {text(p.window), text(p.author), text(p.station), text(p.kind), text(p.subject)});
    engine_.stamp("presence");
    transaction.commit();
}

void StoredStations::leave(const std::string& window) {
    Transaction transaction(engine_);
    if (engine_.run("DELETE FROM presence WHERE window_id = ?", {text(window)}).numRowsAffected() > 0)
        engine_.stamp("presence");
    transaction.commit();
}

std::vector<Present> StoredStations::others(const std::string& window) const {
    std::vector<Present> out;
    QSqlQuery q = engine_.run(fmt::format("SELECT window_id, author, station, kind, subject FROM presence WHERE "
                                          "window_id != ? AND seen >= {} - {} ORDER BY author, window_id",
                                          engine_.seconds_in_sql(), lasts_seconds),
                              {text(window)});
    while (q.next())
        out.push_back({text(q.value(0)), text(q.value(1)), text(q.value(2)), text(q.value(3)), text(q.value(4))});
    return out;
}

std::vector<StationNameConflict> StoredStations::arrive() {
    constexpr int week = 7 * 24 * 3600;
    const std::string now = engine_.seconds_in_sql(), machine = this_machine();
    Transaction transaction(engine_);
    // Two processes of one machine may do this at the same time.
    engine_.run(fmt::format("INSERT INTO machines (station, machine, author, seen) VALUES (?, ?, ?, {}) ON CONFLICT "
                            "(station, machine) DO UPDATE SET author = excluded.author, seen = excluded.seen",
                            now),
                {text(this_station()), text(machine), text(current_author())});
    std::vector<StationNameConflict> out;
    QSqlQuery q = engine_.run(fmt::format("SELECT author, {0} - seen FROM machines WHERE station = ? AND machine != ? "
                                          "AND seen >= {0} - {1} ORDER BY seen DESC",
                                          now, week),
                              {text(this_station()), text(machine)});
    while (q.next()) out.push_back({text(q.value(0)), q.value(1).toLongLong()});
    q.finish();
    transaction.commit();
    return out;
}

}  // namespace optrel
