// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/history_row.h"

#include <fmt/format.h>

#include <QSqlQuery>

#include "base/files.h"
#include "base/station.h"
#include "store/database.h"

namespace optrel {

std::string select_history() {
    return "SELECT id, time, author, login, station, kind, subject, what, before, after, seal FROM history";
}

HistoryEntry history_entry_from(const QSqlQuery& q) {
    return {text(q.value(1)), text(q.value(2)), text(q.value(5)), text(q.value(6)), text(q.value(7)),
            text(q.value(8)), text(q.value(9)), text(q.value(4)), text(q.value(3)), q.value(0).toLongLong()};
}

// Same form as in the server's trigger (postgres/schema.cpp): each field is preceded by its length, so that no two rows
// give the same text.
std::string seal_of(const std::string& before, const HistoryEntry& e) {
    std::string all = before;
    for (const std::string& field :
         {std::to_string(e.id), e.time, e.author, e.login, e.station, e.kind, e.subject, e.what, e.before, e.after})
        all += fmt::format("{}:{}", field.size(), field);
    return bytes_hash(all);
}

namespace {

/// The text as the engines store it. They remove byte-order marks at the beginning, so the seal must not cover them.
std::string kept_form(const std::string& said) {
    QString kept = QString::fromStdString(said);
    while (kept.startsWith(QChar(0xFEFF)) || kept.startsWith(QChar(0xFFFE))) kept.remove(0, 1);
    return kept.toStdString();
}

/// Seal of the newest row; for rows from before the introduction of seals, it is computed.
HistoryMark last_seal(Database& database) {
    QSqlQuery newest = database.run("SELECT id, seal FROM history ORDER BY id DESC LIMIT 1");
    if (!newest.next()) return {};
    HistoryMark out{newest.value(0).toLongLong(), text(newest.value(1))};
    if (!out.seal.empty()) return out;
    QSqlQuery all = database.run(select_history() + " ORDER BY id");
    while (all.next()) out.seal = seal_of(out.seal, history_entry_from(all));
    return out;
}

}  // namespace

std::string digest_words(const std::string& document) { return "sha256 " + bytes_hash(document); }

HistoryMark write_history(Database& database, const HistoryEntry& entry) {
    HistoryEntry e = entry;
    if (e.author.empty()) e.author = current_author();
    if (e.station.empty()) e.station = this_station();
    for (std::string* field : {&e.author, &e.station, &e.kind, &e.subject, &e.what, &e.before, &e.after})
        *field = kept_form(*field);
    if (database.seals_history()) {
        QSqlQuery made = database.run(
            "INSERT INTO history (author, station, kind, subject, what, before, after) VALUES (?, ?, ?, ?, ?, ?, ?) "
            "RETURNING id, seal",
            {text(e.author), text(e.station), text(e.kind), text(e.subject), text(e.what), text(e.before),
             text(e.after)});
        made.next();
        return {made.value(0).toLongLong(), text(made.value(1))};
    }
    const HistoryMark last = last_seal(database);
    e.id = last.id + 1;
    e.time = database.now();
    const HistoryMark own{e.id, seal_of(last.seal, e)};
    database.run(
        "INSERT INTO history (id, time, author, station, login, kind, subject, what, before, after, seal) VALUES (?, "
        "?, ?, ?, '', ?, ?, ?, ?, ?, ?)",
        {e.id, text(e.time), text(e.author), text(e.station), text(e.kind), text(e.subject), text(e.what),
         text(e.before), text(e.after), text(own.seal)});
    return own;
}

}  // namespace optrel
