// SPDX-License-Identifier: GPL-3.0-or-later
// What the parts of a store need of a database engine. Their own statements are standard SQL; what is particular to an
// engine (how it is opened, its schema, its errors) stands in that engine's folder.
//
// An engine belongs to the thread that opened it and refuses any other.
#pragma once

#include <QObject>
#include <QSqlQuery>
#include <QVariant>
#include <filesystem>
#include <functional>
#include <memory>
#include <string>
#include <vector>

#include "store/history.h"
#include "store/hold.h"
#include "store/roots.h"
#include "store/transaction.h"

namespace optrel {

class RolloutShelf;
class StorePeople;

class Engine {
public:
    virtual ~Engine() = default;
    /// False when it was opened to be read where nothing can be written.
    virtual bool writable() const = 0;
    /// A statement to be run many times. Throws Error(store).
    virtual QSqlQuery prepared(const std::string& sql) = 0;
    /// The same for very many rows, which are not kept in memory: no other statement may run until they were read.
    virtual QSqlQuery streamed(const std::string& sql) = 0;
    /// Runs a statement of any kind without values. Throws Error(store).
    virtual QSqlQuery direct(const std::string& sql) = 0;
    virtual void execute(QSqlQuery& statement, const QVariantList& values) = 0;
    /// To the end of the transaction nobody else changes this part: what is read of it now is what will be replaced.
    virtual void lock_part(const std::string& part) = 0;
    /// To the end of the transaction, before anything was read, others' changes are not seen.
    virtual void read_one_instant() = 0;
    /// Ids that the engine gives in this table go on behind those that are there.
    virtual void number_after(const std::string& table) = 0;
    /// What `name` stands for, for this program alone; nothing when another program has it.
    virtual std::unique_ptr<StoreHold> hold(const std::string& name) = 0;
    /// Calls back in this thread's event loop, as long as `context` lives, when any station has written. False: this
    /// engine cannot tell, and is to be asked.
    virtual bool listen(QObject& context, std::function<void()> told) = 0;
    /// After a loss, one that listens is refused at once until somebody found the server to be back.
    virtual void reachable_again() {}
    /// Now, as utc_now() writes it, by the one clock that all stations have.
    virtual std::string now() = 0;
    /// Where this store keeps its rollouts.
    virtual RolloutShelf& rollouts() = 0;

    /// Whom the engine knows this connection as, as an expression; empty where it does not.
    virtual std::string login_in_sql() const = 0;
    /// The clock of the store as an expression, in whole seconds.
    virtual std::string seconds_in_sql() const = 0;
    /// What an SELECT of one row to be worked on ends with: rows of this table that another one is taking are passed
    /// over.
    virtual std::string skipping_locked(const std::string& table) const = 0;
    /// Whether the engine completes and seals a row of the history by itself (history.h).
    virtual bool seals_history() const = 0;
    /// The people that it knows; none where it does not.
    virtual StorePeople* people() = 0;

    /// How many transactions were taken back: what was read in one of them may never have been.
    int taken_back() const { return taken_back_; }
    /// A path as it is kept, and back as this station sees it (roots.h).
    QVariant kept(const std::filesystem::path& path) const;
    std::filesystem::path here(const QVariant& kept) const;
    /// The roots of this station are other ones now.
    void read_roots();

    /// Runs a statement with positional values. Throws Error(store).
    QSqlQuery run(const std::string& sql, const QVariantList& values = {});
    /// Appends to the history when the transaction is committed: last of all, so that nobody who waits to be told of
    /// holds what another one needs. Without a transaction at once.
    void record(HistoryEntry entry);
    /// Called with the newest row of the history that a transaction wrote, once that is kept.
    void tell_sealed(std::function<void(const HistoryMark&)> told) { sealed_told_ = std::move(told); }
    /// Counts that a part was written.
    void stamp(const std::string& part);

protected:
    /// Whether a transaction is open.
    bool within() const { return depth_ > 0; }
    virtual void begin() = 0;
    virtual void commit() = 0;
    virtual void roll_back() noexcept = 0;

private:
    friend class Transaction;
    RootMap roots_;
    std::vector<HistoryEntry> told_;  ///< by the transaction that is open
    std::function<void(const HistoryMark&)> sealed_told_;
    int depth_ = 0, taken_back_ = 0;
    bool doomed_ = false;
};

/// "INSERT ... ON CONFLICT (key) DO UPDATE SET ..." for a row of these columns.
std::string upsert(const std::string& table, const std::vector<std::string>& columns, const std::string& key);
/// Upserts very many rows, several with one statement: on a server each statement is a way there and back. No two of
/// them have the same key.
void upsert_rows(Engine& engine, const std::string& table, const std::vector<std::string>& columns,
                 const std::string& key, const std::vector<QVariantList>& rows);
/// The same, but a row that is there stays as it is.
std::string insert_missing(const std::string& table, const std::vector<std::string>& columns);

inline QVariant text(const std::string& s) { return QString::fromStdString(s); }
inline std::string text(const QVariant& v) { return v.toString().toStdString(); }

}  // namespace optrel
