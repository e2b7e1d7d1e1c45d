// SPDX-License-Identifier: GPL-3.0-or-later
// A store on a PostgreSQL server, by Qt SQL: tables in the schema `optrel` of one database, rollouts among them.
//
// Changes of one part (baselines, fleet, ...) go one after another by a lock of that part, held to the end of the
// transaction; parts do not wait for one another. A connection that is lost is opened again by the next call. What was
// under way then was not taken, and is told. One that listens serves a window, which may not wait: it is opened again
// once somebody else has found the server to be back. Only for a COMMIT that got no answer the server is asked what
// became of it by a mark that goes with each change.
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
#include "store/postgres/table_shelf.h"

namespace optrel::postgres {

class PostgresEngine final : public Engine {
public:
    /// With Access::read nothing is written, whatever the rights are. Older schemas are migrated by who may. Throws
    /// Error(input) for an address that is none, when there is no store and it is not to be begun, and for a wrong
    /// password or name; Error(store) when the server cannot be reached or has a newer schema.
    PostgresEngine(const std::string& address, Access access);
    ~PostgresEngine() override;

    bool writable() const override { return writable_; }
    QSqlQuery prepared(const std::string& sql) override;
    QSqlQuery streamed(const std::string& sql) override;
    QSqlQuery direct(const std::string& sql) override;
    void execute(QSqlQuery& statement, const QVariantList& values) override;
    RolloutShelf& rollouts() override { return shelf_; }
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

    const std::string& address() const { return text_; }
    const std::string& database() const { return address_.name; }
    bool of_this_thread() const { return std::this_thread::get_id() == owner_; }

protected:
    void begin() override;
    void commit() override;
    void roll_back() noexcept override;

private:
    using Clock = std::chrono::steady_clock;
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
    QString client_;         ///< this connection among all that there ever were
    long long commits_ = 0;  ///< that it has begun
    std::string connection_;
    std::string holder_;  ///< who had the lock that was waited for last
    TableShelf shelf_{*this};
    ServerPeople people_{*this};
    std::thread::id owner_ = std::this_thread::get_id();
    bool writable_ = true, read_only_ = false, connected_ = false, failed_ = false, found_ = false;
    Clock::time_point tried_{};  ///< in vain
    std::function<void()> told_;
    QSqlDatabase db_;
};

}  // namespace optrel::postgres
