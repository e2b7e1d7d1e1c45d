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

/// The text as the engines keep it. They remove byte-order marks at the beginning, so the seal must not cover them.
std::string kept_form(const std::string& said) {
    QString kept = QString::fromStdString(said);
    while (kept.startsWith(QChar(0xFEFF)) || kept.startsWith(QChar(0xFFFE))) kept.remove(0, 1);
    return kept.toStdString();
}

/// The columns as bytes: texts lose such signs when they are read as well, and somebody may have written them by hand.
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
    static const std::vector<std::string> all{"body",    "bundle",    "claim",  "colours",  "delivery", "folder",
                                              "frame",   "frames",    "lens",   "measurer", "model",    "person",
                                              "profile", "proposal",  "remark", "revision", "rollout",  "root",
                                              "rule",    "selection", "set",    "setting",  "store",    "tier"};
    return all;
}

std::string digest_words(const std::string& document) { return "sha256 " + bytes_hash(document); }

HistoryMark write_history(Engine& engine, const HistoryEntry& entry) {
    HistoryEntry e = entry;
    if (e.author.empty()) e.author = current_author();
    if (e.station.empty()) e.station = this_station();
    for (std::string* field : {&e.author, &e.station, &e.kind, &e.subject, &e.what, &e.before, &e.after})
        *field = kept_form(*field);
    if (engine.seals_history()) {
        QSqlQuery made = engine.run(
            "INSERT INTO history (author, station, kind, subject, what, before, after) VALUES (?, ?, ?, ?, ?, ?, ?) "
            "RETURNING id, seal",
            {text(e.author), text(e.station), text(e.kind), text(e.subject), text(e.what), text(e.before),
             text(e.after)});
        made.next();
        return {made.value(0).toLongLong(), text(made.value(1))};
    }
    const HistoryMark last = last_seal(engine);
    e.id = last.id + 1;
    e.time = engine.now();
    const HistoryMark own{e.id, seal_of(last.seal, e)};
    engine.run(
        "INSERT INTO history (id, time, author, station, login, kind, subject, what, before, after, seal) VALUES (?, "
        "?, ?, ?, '', ?, ?, ?, ?, ?, ?)",
        {e.id, text(e.time), text(e.author), text(e.station), text(e.kind), text(e.subject), text(e.what),
         text(e.before), text(e.after), text(own.seal)});
    return own;
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
        // A full disk here does not undo what the store has taken.
    }
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

std::string StoredHistory::first_seal() {
    QSqlQuery q = engine_.run("SELECT seal FROM history ORDER BY id LIMIT 1");
    return q.next() ? text(q.value(0)) : std::string();
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
    QSqlQuery q = engine_.streamed(columns_as_bytes(engine_.seals_history()) + " ORDER BY id");
    engine_.execute(q, {});
    while (q.next()) {
        if (out.rows % 1000 == 0) progress.check();
        const HistoryEntry e = entry_from_bytes(q);
        const std::string kept = q.value(10).toByteArray().toStdString();
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
