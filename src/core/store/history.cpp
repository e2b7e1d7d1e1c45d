// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/history.h"

#include <fmt/format.h>

#include "base/error.h"
#include "store/engine.h"

namespace optrel {
namespace {

/// Reads the columns as bytes, because reading text removes byte-order marks, and rows may have been written by other
/// programs.
std::string columns_as_bytes(bool server) {
    std::string out;
    for (const char* name :
         {"time", "author", "login", "station", "kind", "subject", "what", "before", "after", "seal"})
        out += fmt::format(fmt::runtime(server ? ", convert_to({0}::text, 'UTF8')" : ", CAST({0} AS BLOB)"), name);
    return "SELECT id" + out + " FROM history";
}

HistoryEntry entry_from_bytes(const QSqlQuery& q) {
    const auto at = [&](int column) { return q.value(column).toByteArray().toStdString(); };
    return {at(1), at(2), at(5), at(6), at(7), at(8), at(9), at(4), at(3), q.value(0).toLongLong()};
}

}  // namespace

const std::vector<std::string>& history_kinds() {
    static const std::vector<std::string> all{"body",    "bundle",    "claim",  "colours",  "delivery", "folder",
                                              "frame",   "frames",    "lens",   "measurer", "model",    "person",
                                              "profile", "proposal",  "remark", "revision", "rollout",  "root",
                                              "rule",    "selection", "set",    "setting",  "store",    "tier"};
    return all;
}

namespace {

std::function<void(const StoreSource&, const HistoryMark&)>& mark_keeper() {
    static std::function<void(const StoreSource&, const HistoryMark&)> keeper;
    return keeper;
}

}  // namespace

void keep_marks_by(std::function<void(const StoreSource&, const HistoryMark&)> keeper) {
    mark_keeper() = std::move(keeper);
}

void keep_mark(const StoreSource& store, const HistoryMark& mark) noexcept {
    try {
        if (mark_keeper()) mark_keeper()(store, mark);
    } catch (const std::exception&) {
        // A full local disk does not undo what the store has committed.
    }
}

void StoredHistory::append(const HistoryEntry& entry) {
    Transaction transaction(engine_);
    engine_.record(entry);
    transaction.commit();
}

std::vector<HistoryEntry> StoredHistory::entries(const std::string& kind, const std::string& subject, int most) const {
    std::vector<HistoryEntry> out;
    // Deliveries had another name in older versions; old rows keep it.
    const std::string older = kind == "delivery" ? "recipe" : kind;
    QSqlQuery q =
        engine_.run(select_history() +
                        " WHERE (? = '' OR kind = ? OR kind = ?) AND (? = '' OR subject = ?) ORDER BY id DESC "
                        "LIMIT ?",
                    {text(kind), text(kind), text(older), text(subject), text(subject), most});
    while (q.next()) out.push_back(history_entry_from(q));
    return out;
}

HistoryMark StoredHistory::newest() const {
    QSqlQuery q = engine_.run("SELECT id, seal FROM history ORDER BY id DESC LIMIT 1");
    return q.next() ? HistoryMark{q.value(0).toLongLong(), text(q.value(1))} : HistoryMark{};
}

std::string StoredHistory::first_seal() const {
    QSqlQuery q = engine_.run("SELECT seal FROM history ORDER BY id LIMIT 1");
    return q.next() ? text(q.value(0)) : std::string();
}

bool StoredHistory::holds(const HistoryMark& remembered) const {
    if (remembered.id == 0) return true;
    QSqlQuery q = engine_.run("SELECT seal FROM history WHERE id = ?", {remembered.id});
    return q.next() && text(q.value(0)) == remembered.seal;
}

HistoryAudit StoredHistory::audit(const std::optional<HistoryMark>& remembered, Progress& progress) const {
    HistoryAudit out;
    std::string seal;
    bool sealed = false, broken = false;
    QSqlQuery q = engine_.streamed(columns_as_bytes(engine_.seals_history()) + " ORDER BY id");
    engine_.execute(q, {});
    while (q.next()) {
        if (out.rows % 1000 == 0) progress.check();
        const HistoryEntry e = entry_from_bytes(q);
        const std::string kept = q.value(10).toByteArray().toStdString();
        seal = seal_of(seal, e);
        // Only rows from before the introduction of seals have none.
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
