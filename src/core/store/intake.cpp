// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/intake.h"

#include <fmt/format.h>

#include "base/error.h"
#include "base/paths.h"
#include "base/words.h"
#include "store/engine.h"
#include "store/table_rows.h"

namespace optrel {
namespace fs = std::filesystem;

std::vector<IntakeFolder> StoredIntake::folders() const {
    std::vector<IntakeFolder> out;
    TableReader row(engine_, "intake_folders", "ORDER BY folder");
    while (row.next())
        out.push_back({engine_.here(row.value("folder")), row.text("set_name"), row.text("set_until"),
                       row.yes("only_index"), row.yes("raw_only"), row.yes("unknown_waits"),
                       day_hours_from(row.text("hours")), row.yes("watched"), row.text("author"), row.text("time")});
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
    put_row(engine_, "intake_folders",
            {{"folder", engine_.kept(folder)},
             {"set_name", text(f.set)},
             {"set_until", text(f.set_until)},
             {"only_index", f.only_index},
             {"raw_only", f.raw_only},
             {"unknown_waits", f.unknown_waits},
             {"hours", text(to_string(f.hours))},
             {"watched", f.on},
             {"author", text(f.author)},
             {"time", text(f.time)}});
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
    std::vector<NamedValues> rows;
    for (const ArrivalRecord& a : arrivals)
        rows.push_back({{"time", text(a.time)},
                        {"way", text(a.way)},
                        {"frame", engine_.kept(a.frame)},
                        {"what", text(a.what)},
                        // Names with invalid UTF-8 are shown escaped; the log is not used for lookups.
                        {"why", text(printable(a.why))},
                        {"body", text(a.body)},
                        {"set_name", text(a.set)},
                        {"revision", a.revision},
                        {"rollout", a.rollout}});
    add_rows(engine_, "arrivals", rows);
    engine_.stamp("arrivals");
    transaction.commit();
}

std::vector<ArrivalRecord> StoredIntake::read(const std::string& which, int value) const {
    std::vector<ArrivalRecord> out;
    TableReader row(engine_, "arrivals", which, {value});
    while (row.next())
        out.push_back({row.text("time"), row.text("way"), engine_.here(row.value("frame")), row.text("what"),
                       row.text("why"), row.text("body"), row.text("set_name"), row.whole("revision"),
                       row.whole("rollout")});
    return out;
}

std::vector<ArrivalRecord> StoredIntake::newest(int most) const { return read("ORDER BY id DESC LIMIT ?", most); }
std::vector<ArrivalRecord> StoredIntake::of_rollout(int number) const {
    return read("WHERE rollout = ? ORDER BY id", number);
}

}  // namespace optrel
