// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/history.h"

#include <fmt/format.h>

#include "base/error.h"
#include "base/files.h"
#include "base/station.h"
#include "store/engine.h"

namespace optrel {
namespace {

const std::string columns =
    "SELECT id, time, author, login, station, kind, subject, what, before, after, seal FROM history";

HistoryEntry entry_from(const QSqlQuery& q) {
    return {text(q.value(1)), text(q.value(2)), text(q.value(5)), text(q.value(6)), text(q.value(7)),
            text(q.value(8)), text(q.value(9)), text(q.value(4)), text(q.value(3)), q.value(0).toLongLong()};
}

/// As the trigger of a server forms it (postgres/schema.cpp): each field with its length before it, so that no two rows
/// look alike.
std::string seal_of(const std::string& before, const HistoryEntry& e) {
    std::string all = before;
    for (const std::string& field :
         {std::to_string(e.id), e.time, e.author, e.login, e.station, e.kind, e.subject, e.what, e.before, e.after})
        all += fmt::format("{}:{}", field.size(), field);
    return bytes_hash(all);
}

/// Of the newest row; of rows that were written before there were seals, what theirs would be.
HistoryMark last_seal(Engine& engine) {
    QSqlQuery newest = engine.run("SELECT id, seal FROM history ORDER BY id DESC LIMIT 1");
    if (!newest.next()) return {};
    HistoryMark out{newest.value(0).toLongLong(), text(newest.value(1))};
    if (!out.seal.empty()) return out;
    QSqlQuery all = engine.run(columns + " ORDER BY id");
    while (all.next()) out.seal = seal_of(out.seal, entry_from(all));
    return out;
}

}  // namespace

const std::vector<std::string>& history_kinds() {
    static const std::vector<std::string> all{"body",   "claim",    "colours", "folder",  "frame",    "frames",
                                              "lens",   "model",    "person",  "profile", "proposal", "delivery",
                                              "remark", "revision", "rollout", "root",    "rule",     "selection",
                                              "set",    "setting",  "store",   "tier"};
    return all;
}

std::string digest_words(const std::string& document) { return "sha256 " + bytes_hash(document); }

void write_history(Engine& engine, const HistoryEntry& entry) {
    HistoryEntry e = entry;
    if (e.author.empty()) e.author = current_author();
    if (e.station.empty()) e.station = this_station();
    if (engine.seals_history()) {
        engine.run(
            "INSERT INTO history (author, station, kind, subject, what, before, after) VALUES (?, ?, ?, ?, ?, ?, ?)",
            {text(e.author), text(e.station), text(e.kind), text(e.subject), text(e.what), text(e.before),
             text(e.after)});
        return;
    }
    const HistoryMark last = last_seal(engine);
    e.id = last.id + 1;
    e.time = engine.now();
    engine.run(
        "INSERT INTO history (id, time, author, station, login, kind, subject, what, before, after, seal) VALUES (?, "
        "?, ?, ?, '', ?, ?, ?, ?, ?, ?)",
        {e.id, text(e.time), text(e.author), text(e.station), text(e.kind), text(e.subject), text(e.what),
         text(e.before), text(e.after), text(seal_of(last.seal, e))});
}

void StoredHistory::append(const HistoryEntry& entry) {
    Transaction transaction(engine_);
    engine_.record(entry);
    transaction.commit();
}

std::vector<HistoryEntry> StoredHistory::entries(const std::string& kind, const std::string& subject, int most) {
    std::vector<HistoryEntry> out;
    // Deliveries had another name once, and what was written stays as it was written.
    const std::string older = kind == "delivery" ? "recipe" : kind;
    QSqlQuery q =
        engine_.run(columns +
                        " WHERE (? = '' OR kind = ? OR kind = ?) AND (? = '' OR subject = ?) ORDER BY id DESC "
                        "LIMIT ?",
                    {text(kind), text(kind), text(older), text(subject), text(subject), most});
    while (q.next()) out.push_back(entry_from(q));
    return out;
}

HistoryMark StoredHistory::newest() {
    QSqlQuery q = engine_.run("SELECT id, seal FROM history ORDER BY id DESC LIMIT 1");
    return q.next() ? HistoryMark{q.value(0).toLongLong(), text(q.value(1))} : HistoryMark{};
}

bool StoredHistory::holds(const HistoryMark& remembered) {
    if (remembered.id == 0) return true;
    QSqlQuery q = engine_.run("SELECT seal FROM history WHERE id = ?", {remembered.id});
    return q.next() && text(q.value(0)) == remembered.seal;
}

HistoryAudit StoredHistory::audit(const std::optional<HistoryMark>& remembered, Progress& progress) {
    HistoryAudit out;
    std::string seal;
    bool sealed = false, broken = false;
    QSqlQuery q = engine_.streamed(columns + " ORDER BY id");
    engine_.execute(q, {});
    while (q.next()) {
        if (out.rows % 1000 == 0) progress.check();
        const HistoryEntry e = entry_from(q);
        const std::string kept = text(q.value(10));
        seal = seal_of(seal, e);
        // Only what was written before there were seals has none.
        const bool fits = kept.empty() ? !sealed : kept == seal;
        if ((!fits || e.id != out.newest.id + 1) && !broken) {
            broken = true;
            out.problems.push_back(fmt::format(
                "The history was changed at or before row {} ({} by {}: {}); compare with a copy of the store.", e.id,
                e.time, e.author, e.what));
        }
        sealed = sealed || !kept.empty();
        if (!kept.empty()) seal = kept;
        out.newest = {e.id, kept};
        ++out.rows;
    }
    if (remembered && !holds(*remembered))
        out.problems.push_back(
            fmt::format("Row {} of the history is not what this station saw there before: it was written anew, or the "
                        "store is an older copy; compare with a copy of the store.",
                        remembered->id));
    return out;
}

}  // namespace optrel
