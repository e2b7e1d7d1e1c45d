// SPDX-License-Identifier: GPL-3.0-or-later
// A row of the history, and its seal: the SHA-256 of the seal before it and of its own fields (a hash chain).
#pragma once

#include <string>

class QSqlQuery;

namespace optrel {

class Database;

struct HistoryEntry {
    std::string time, author, kind, subject, what, before, after;
    std::string station = {};
    std::string login = {};  ///< whom the server knew the author as; empty in a folder
    long long id = 0;
};

/// What somebody remembers of a history: of the row with this number its seal.
struct HistoryMark {
    long long id = 0;  ///< 0: there is no row yet
    std::string seal;
    bool operator==(const HistoryMark&) const = default;
};

/// What a row says instead of a long document that is kept elsewhere: its seal then holds the document too.
std::string digest_words(const std::string& document);

/// Writes a row now, and returns its mark; Engine::record() says when.
HistoryMark write_history(Database& database, const HistoryEntry& entry);

/// The seal of a row behind a row with the seal `before`.
std::string seal_of(const std::string& before, const HistoryEntry& entry);
/// The columns that history_entry_from() reads, from the table.
std::string select_history();
HistoryEntry history_entry_from(const QSqlQuery& row);

}  // namespace optrel
