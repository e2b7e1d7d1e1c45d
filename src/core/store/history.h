// SPDX-License-Identifier: GPL-3.0-or-later
// The history of a store: every change with author, station and time. Rows are only appended.
//
// The rows form a hash chain: each row has a seal, the SHA-256 of the previous seal and of its own fields. To alter,
// remove or insert a row, somebody must recompute all later seals, and audit() detects that by any seal that was
// remembered elsewhere. On a server, the server itself writes seal, time and login.
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "base/progress.h"
#include "store/history_row.h"

namespace optrel {

class Engine;
class StoreSource;

struct HistoryAudit {
    long long rows = 0;
    std::vector<std::string> problems;  ///< one sentence for each problem; empty: the history is intact
    HistoryMark newest;
};

class StoredHistory {
public:
    explicit StoredHistory(Engine& engine) : engine_(engine) {}

    /// Newest entries first. Empty kind or subject: all. Kinds: history_kinds().
    std::vector<HistoryEntry> entries(const std::string& kind = "", const std::string& subject = "",
                                      int most = 500) const;
    /// An empty author means the current user.
    void append(const HistoryEntry& entry);
    HistoryMark newest() const;
    /// Seal of the first row, which identifies the history; empty when there are no rows.
    std::string first_seal() const;
    /// Whether a remembered row is unchanged. Reads one row.
    bool holds(const HistoryMark& remembered) const;
    /// Reads all rows, recomputes every seal, and compares.
    HistoryAudit audit(const std::optional<HistoryMark>& remembered, Progress& progress) const;

private:
    Engine& engine_;
};

/// Kinds of subjects that history entries can have.
const std::vector<std::string>& history_kinds();

/// Sets a callback that receives the newest history row of every committed change, from any thread. This station
/// remembers it (studio/history_check.h) and can later detect that the row was removed.
void keep_marks_by(std::function<void(const StoreSource&, const HistoryMark&)> keeper);
void keep_mark(const StoreSource& store, const HistoryMark& mark) noexcept;

}  // namespace optrel
