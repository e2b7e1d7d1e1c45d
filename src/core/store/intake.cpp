// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/intake.h"

#include <fmt/format.h>

#include "base/error.h"
#include "base/paths.h"
#include "base/words.h"
#include "store/engine.h"

namespace optrel {
namespace fs = std::filesystem;

std::vector<IntakeFolder> StoredIntake::folders() const {
    std::vector<IntakeFolder> out;
    QSqlQuery q = engine_.run(
        "SELECT folder, set_name, set_until, only_index, raw_only, unknown_waits, hours, watched, author, time FROM "
        "intake_folders ORDER BY folder");
    while (q.next())
        out.push_back({engine_.here(q.value(0)), text(q.value(1)), text(q.value(2)), q.value(3).toBool(),
                       q.value(4).toBool(), q.value(5).toBool(), day_hours_from(text(q.value(6))), q.value(7).toBool(),
                       text(q.value(8)), text(q.value(9))});
    return out;
}

void StoredIntake::put(const IntakeFolder& f) {
    const fs::path folder = plain_path(f.folder);
    std::error_code failed;
    if (!fs::is_directory(folder, failed))
        throw input_error(
            fmt::format("{} is no folder; name one that is there, or make it first.", printable(f.folder.string())));
    if (!f.set_until.empty() && f.set.empty())
        throw input_error("A time at which the set ends is given, but no set; name one, or leave the time out.");
    Transaction transaction(engine_, "intake");
    for (const IntakeFolder& other : folders()) {
        const bool inner = lies_within(folder, other.folder);
        if (inner || lies_within(other.folder, folder))
            throw input_error(fmt::format(
                "{} lies within {}, and folders are watched with those beneath them; take the other one out first.",
                (inner ? folder : other.folder).string(), (inner ? other.folder : folder).string()));
    }
    engine_.run(upsert("intake_folders",
                       {"folder", "set_name", "set_until", "only_index", "raw_only", "unknown_waits", "hours",
                        "watched", "author", "time"},
                       "folder"),
                {engine_.kept(folder), text(f.set), text(f.set_until), f.only_index, f.raw_only, f.unknown_waits,
                 text(to_string(f.hours)), f.on, text(f.author), text(f.time)});
    engine_.record({"", f.author, "folder", folder.string(), f.on ? "watch" : "watch no more", "",
                    f.set.empty() ? "" : "set " + f.set});
    engine_.stamp("intake");
    transaction.commit();
}

void StoredIntake::remove(const fs::path& folder) {
    Transaction transaction(engine_);
    const std::string wanted = plain_path(folder).string();
    std::vector<std::string> names;
    for (const IntakeFolder& f : folders()) names.push_back(f.folder.string());
    if (std::find(names.begin(), names.end(), wanted) == names.end())
        throw input_error(
            fmt::format("{} is not watched{}.", printable(folder.string()), nearest_clause(wanted, names)));
    engine_.run("DELETE FROM intake_folders WHERE folder = ?", {engine_.kept(wanted)});
    engine_.record({"", "", "folder", wanted, "take out", "", ""});
    engine_.stamp("intake");
    transaction.commit();
}

void StoredIntake::log(const std::vector<ArrivalRecord>& arrivals) {
    if (arrivals.empty()) return;
    Transaction transaction(engine_);
    QSqlQuery q = engine_.prepared(
        "INSERT INTO arrivals (time, way, frame, what, why, body, set_name, revision, rollout) VALUES (?, ?, ?, ?, ?, "
        "?, "
        "?, ?, ?)");
    for (const ArrivalRecord& a : arrivals)
        // Names with invalid UTF-8 are shown escaped; the log is not used for lookups.
        engine_.execute(q, {text(a.time), text(a.way), engine_.kept(a.frame), text(a.what), text(printable(a.why)),
                            text(a.body), text(a.set), a.revision, a.rollout});
    engine_.stamp("arrivals");
    transaction.commit();
}

std::vector<ArrivalRecord> StoredIntake::read(const std::string& which, int value) const {
    std::vector<ArrivalRecord> out;
    QSqlQuery q = engine_.run(
        "SELECT time, way, frame, what, why, body, set_name, revision, rollout FROM arrivals " + which, {value});
    while (q.next())
        out.push_back({text(q.value(0)), text(q.value(1)), engine_.here(q.value(2)), text(q.value(3)), text(q.value(4)),
                       text(q.value(5)), text(q.value(6)), q.value(7).toInt(), q.value(8).toInt()});
    return out;
}

std::vector<ArrivalRecord> StoredIntake::newest(int most) const { return read("ORDER BY id DESC LIMIT ?", most); }
std::vector<ArrivalRecord> StoredIntake::of_rollout(int number) const {
    return read("WHERE rollout = ? ORDER BY id", number);
}

}  // namespace optrel
