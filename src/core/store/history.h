// SPDX-License-Identifier: GPL-3.0-or-later
// Who changed what in a store, at which station and when: appended to, and never changed.
//
// Each row carries a seal: the SHA-256 of the row before's seal and of its own fields. Who changes a row, takes one out
// or puts one in has to renew all seals behind it, and is found out by whoever remembers one of them (audit()). On a
// server the seal, the time and the login are the server's own work, whatever a client says.
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "base/progress.h"

namespace optrel {

class Engine;
class StoreSource;

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

struct HistoryAudit {
    long long rows = 0;
    std::vector<std::string> problems;  ///< one sentence each; none: the history is whole
    HistoryMark newest;
};

class StoredHistory {
public:
    explicit StoredHistory(Engine& engine) : engine_(engine) {}

    /// Newest first; of one kind (history_kinds()), or of all with an empty one; of one subject, or of all.
    std::vector<HistoryEntry> entries(const std::string& kind = "", const std::string& subject = "", int most = 500);
    /// `author` empty: who is at this station.
    void append(const HistoryEntry& entry);
    HistoryMark newest();
    /// The seal of the first row, by which one history is told from another; empty where there is none.
    std::string first_seal();
    /// Whether a remembered row stands there as it did. Cheap: one row is read.
    bool holds(const HistoryMark& remembered);
    /// Reads it all, renews every seal for itself, and compares.
    HistoryAudit audit(const std::optional<HistoryMark>& remembered, Progress& progress);

private:
    Engine& engine_;
};

/// The kinds of things that the parts of a store tell of.
const std::vector<std::string>& history_kinds();

/// What a row says instead of a long document that is kept elsewhere: its seal then holds the document too.
std::string digest_words(const std::string& document);

/// Writes a row now, and returns its mark; Engine::record() says when.
HistoryMark write_history(Engine& engine, const HistoryEntry& entry);

/// Every change that a store of this program has acknowledged is told to `keeper` from now on, from any thread, by the
/// newest row that it wrote: what this station remembers is what it can miss later.
void keep_marks_by(std::function<void(const StoreSource&, const HistoryMark&)> keeper);
void keep_mark(const StoreSource& store, const HistoryMark& mark) noexcept;

}  // namespace optrel
