// SPDX-License-Identifier: GPL-3.0-or-later
// Engine for a store on a PostgreSQL server (Qt SQL); all tables, including rollouts, are in the schema `optrel`.
//
// Writers of the same part (baselines, fleet, ...) are serialised by a lock that is held until the transaction ends;
// different parts do not block each other. The next call reopens a lost connection; a transaction that was open then is
// reported as failed. A connection that listens belongs to a window, which must not block: it reconnects only after
// another connection has reached the server. When a COMMIT gets no answer, the engine finds out its result by a row
// (commit_marks) that each transaction writes.
#pragma once

#include <QSqlDatabase>
#include <QSqlError>
#include <chrono>
#include <string>
#include <thread>

#include "base/error.h"
#include "store/access.h"
#include "store/engine.h"
#include "store/postgres/address.h"
#include "store/postgres/server_people.h"
#include "store/postgres/table_rollout_store.h"

namespace optrel::postgres {

class PostgresEngine final : public Engine {
public:
    /// With Access::read nothing is written. Throws Error(input) for an invalid address, a missing store that is not to
    /// be begun, and a wrong user name or password; Error(store) when the server cannot be reached, or when the schema
    /// is newer or needs a migration.
    PostgresEngine(const std::string& address, Access access);
    ~PostgresEngine() override;

    bool writable() const override { return writable_; }
    QSqlQuery prepared(const std::string& sql) override;
    QSqlQuery streamed(const std::string& sql) override;
    QSqlQuery direct(const std::string& sql) override;
    void execute(QSqlQuery& statement, const QVariantList& values) override;
    RolloutStore& rollouts() override { return rollouts_; }
    void lock_part(const std::string& part) override;
    void read_one_instant() override { direct("SET TRANSACTION ISOLATION LEVEL REPEATABLE READ"); }
    void number_after(const std::string& table) override;
    std::unique_ptr<StoreHold> hold(const std::string& name) override;
    bool listen(QObject& context, std::function<void()> told) override;
    void reachable_again() override { found_ = true; }
    std::string login_in_sql() const override { return "session_user"; }
    std::string seconds_in_sql() const override { return "CAST(extract(epoch FROM clock_timestamp()) AS BIGINT)"; }
    std::string skipping_locked(const std::string& table) const override {
        return "FOR UPDATE OF " + table + " SKIP LOCKED";
    }
    bool seals_history() const override { return true; }
    StorePeople* people() override { return &people_; }
    std::string now() override;

protected:
    void begin() override;
    void commit() override;
    void roll_back() noexcept override;

private:
    using Clock = std::chrono::steady_clock;
    /// Returns a function that opens another connection to the same store.
    std::function<std::unique_ptr<Engine>()> another() const;
    void open();
    void begin_session();
    void make_database();
    void require_connection();
    QSqlQuery on_connection(const std::function<bool(QSqlQuery&)>& work);
    Error lost() const;
    int schema();
    void migrate(Access access);
    void copy_before_migration(int have);
    void refuse_newer(int have) const;
    bool was_kept(const QString& change);
    void mark_commit();
    void listen_again();
    void check_thread() const;
    [[noreturn]] void fail(const QSqlError& error);

    std::string text_;
    Address address_;
    QString client_;         ///< identifies this connection among all connections ever
    long long commits_ = 0;  ///< number of commits begun
    std::string connection_;
    std::string holder_;  ///< holder of the lock that was last waited for
    TableRolloutStore rollouts_{*this, another()};
    ServerPeople people_{*this, address_.name};
    std::thread::id owner_ = std::this_thread::get_id();
    bool writable_ = true, read_only_ = false, connected_ = false, failed_ = false, found_ = false;
    Clock::time_point tried_{};  ///< time of the last failed attempt to connect
    std::function<void()> told_;
    QSqlDatabase db_;
};

}  // namespace optrel::postgres
