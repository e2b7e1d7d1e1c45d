// SPDX-License-Identifier: GPL-3.0-or-later
// Database engine of a store: statements, transactions, locks, notifications. Statements of the store's parts are
// standard SQL; everything specific to an engine (opening, schema, errors) is in the folder of that engine.
//
// An engine belongs to the thread that opened it and refuses calls from others.
#pragma once

#include <QObject>
#include <QSqlQuery>
#include <QVariant>
#include <filesystem>
#include <functional>
#include <memory>
#include <string>
#include <vector>

#include "store/database.h"
#include "store/history_row.h"
#include "store/hold.h"
#include "store/root_map.h"
#include "store/transaction.h"

namespace optrel {

class RolloutStore;
class StorePeople;

class Engine : public Database {
public:
    /// Locks this part against other writers until the transaction ends.
    virtual void lock_part(const std::string& part) = 0;
    /// Makes the transaction read one snapshot. Must be called before the first read.
    virtual void read_one_instant() = 0;
    /// Sets the id sequence of a table behind its largest id.
    virtual void number_after(const std::string& table) = 0;
    /// Takes an exclusive role for this program; null when another program has it.
    virtual std::unique_ptr<StoreHold> hold(const std::string& name) = 0;
    /// Calls `told` in this thread's event loop, while `context` lives, after any station has written. Returns false
    /// when the engine cannot notify and must be polled.
    virtual bool listen(QObject& context, std::function<void()> told) = 0;
    /// Allows a listening connection that was lost to reconnect. Until then every call is refused at once, so that the
    /// window does not wait.
    virtual void reachable_again() {}
    /// Storage of rollouts.
    virtual RolloutStore& rollouts() = 0;

    /// Users of the store; null when the engine has none.
    virtual StorePeople* people() = 0;

    /// Number of transactions that were rolled back. Data that was read inside one of them may never have existed.
    int taken_back() const { return taken_back_; }
    /// Converts a path to the form that the store keeps, and back (roots.h).
    QVariant kept(const std::filesystem::path& path) const;
    std::filesystem::path here(const QVariant& kept) const;
    /// Sets the roots of this station (see read_roots() in roots.h).
    void set_roots(RootMap roots) { roots_ = std::move(roots); }

    /// Adds a history entry, written when the transaction commits. History rows are written last, so that a transaction
    /// that waits for the history lock holds no lock that others need (deadlock). Without a transaction the entry is
    /// written at once.
    void record(HistoryEntry entry);
    /// Sets a callback for the newest history row of each committed transaction.
    void tell_sealed(std::function<void(const HistoryMark&)> told) { sealed_told_ = std::move(told); }

protected:
    /// Whether a transaction is open.
    bool within() const { return depth_ > 0; }
    virtual void begin() = 0;
    virtual void commit() = 0;
    virtual void roll_back() noexcept = 0;

private:
    friend class Transaction;
    RootMap roots_;
    std::vector<HistoryEntry> told_;  ///< entries of the open transaction
    std::function<void(const HistoryMark&)> sealed_told_;
    int depth_ = 0, taken_back_ = 0;
    bool doomed_ = false;
};

}  // namespace optrel
