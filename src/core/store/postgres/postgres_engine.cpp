// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/postgres/postgres_engine.h"

#include <fmt/format.h>

#include <QSqlDriver>
#include <QUuid>
#include <algorithm>
#include <atomic>

#include "base/error.h"
#include "base/files.h"
#include "base/station.h"
#include "base/words.h"
#include "store/outdated.h"
#include "store/postgres/schema.h"
#include "store/postgres/server_hold.h"
#include "store/roots.h"

namespace optrel::postgres {
namespace {

/// After a failed attempt to connect, calls are refused for this time without another attempt.
constexpr std::chrono::milliseconds patience{1000};

/// How long to ask for the result of a COMMIT that got no answer.
constexpr std::chrono::seconds answer_wait{10};

/// The server's message as part of a sentence.
std::string words_of(const QSqlError& error) {
    QString text = error.databaseText().section('\n', 0, 0).trimmed();
    // Messages begin with "ERROR:  ..." in the server's language; some first name the whole connection.
    if (const int at = text.indexOf(":  "); at >= 0) text = text.mid(at + 3);
    return without_stop(printable(text.toStdString()));
}

/// Classes 08 and 57P, and errors without a code, mean a lost connection (manual, "PostgreSQL Error Codes").
bool connection_lost(const QString& code) { return code.isEmpty() || code.startsWith("08") || code.startsWith("57P"); }

}  // namespace

PostgresEngine::PostgresEngine(const std::string& address, Access access)
    : text_(address), address_(parse_address(address)), client_(QUuid::createUuid().toString(QUuid::WithoutBraces)) {
    static std::atomic<int> counter{0};
    connection_ = fmt::format("server-{}", counter++);
    db_ = QSqlDatabase::addDatabase("QPSQL", QString::fromStdString(connection_));
    try {
        if (!db_.isValid())
            throw store_error(
                "A store on a server needs Qt's driver for PostgreSQL; install the package libqt6sql6-psql.");
        try {
            open();
        } catch (const Error&) {
            if (access != Access::begin) throw;
            make_database();
        }
        migrate(access);
        optrel::read_roots(*this);
        read_only_ = access == Access::read;
        if (read_only_) direct("SET default_transaction_read_only = on");
        writable_ = !read_only_ && run("SELECT 1 WHERE has_table_privilege('optrel.frames', 'INSERT')").next();
    } catch (...) {
        db_.close();
        db_ = QSqlDatabase();
        QSqlDatabase::removeDatabase(QString::fromStdString(connection_));
        throw;
    }
}

PostgresEngine::~PostgresEngine() {
    db_.close();
    db_ = QSqlDatabase();
    QSqlDatabase::removeDatabase(QString::fromStdString(connection_));
}

std::function<std::unique_ptr<Engine>()> PostgresEngine::another() const {
    return [address = text_] { return std::make_unique<PostgresEngine>(address, Access::write); };
}

void PostgresEngine::open() {
    db_.close();
    db_.setHostName(QString::fromStdString(address_.host));
    db_.setUserName(QString::fromStdString(address_.user));
    db_.setDatabaseName(QString::fromStdString(address_.name));
    if (address_.port > 0) db_.setPort(address_.port);
    // Detects an unplugged cable within seconds instead of hours.
    db_.setConnectOptions(QString::fromStdString(
        fmt::format("connect_timeout=5;keepalives_idle=10;tcp_user_timeout=8000;application_name=optrel@{}{}{}",
                    this_station(), address_.options.empty() ? "" : ";", address_.options)));
    tried_ = Clock::now();
    if (!db_.open())
        throw store_error(fmt::format(
            "The store {} cannot be reached ({}); check its address, your name and password there (file .pgpass), and "
            "that the server runs.",
            address_.shown(), words_of(db_.lastError())));
    tried_ = {};
    connected_ = true;
    found_ = false;
    begin_session();
}

void PostgresEngine::begin_session() {
    direct("SET search_path = optrel, pg_temp");
    direct("SET lock_timeout = '10s'");
    direct("SET client_min_messages = error");
    if (read_only_) direct("SET default_transaction_read_only = on");
    listen_again();
}

/// Creates the missing database; of several concurrent attempts one succeeds, and all open it.
void PostgresEngine::make_database() {
    const std::string wanted = address_.name;
    std::string quoted = wanted;
    for (std::size_t at = 0; (at = quoted.find('"', at)) != std::string::npos; at += 2) quoted.insert(at, 1, '"');
    std::string refused;
    address_.name = "postgres";
    try {
        open();
        // Other encodings would lose names.
        direct(fmt::format("CREATE DATABASE \"{}\" TEMPLATE template0 ENCODING 'UTF8'", quoted));
    } catch (const Error& error) {
        if (connected_) refused = error.what();
    }
    address_.name = wanted;
    try {
        open();  // reports the original problem when the server cannot be reached
    } catch (const Error&) {
        if (!refused.empty()) throw store_error(refused);
        throw;
    }
}

Error PostgresEngine::lost() const {
    return store_error(fmt::format(
        "The connection to the store {} was lost, so this change was not taken; make it again once it is back.",
        address_.shown()));
}

void PostgresEngine::require_connection() {
    if (connected_) return;
    if (within()) throw lost();
    const bool not_yet = told_ ? !found_ : Clock::now() - tried_ < patience;
    if (not_yet)
        throw store_error(fmt::format(
            "The store {} cannot be reached for now, so nothing can be changed; it is tried again by itself.",
            address_.shown()));
    open();
}

void PostgresEngine::check_thread() const {
    if (std::this_thread::get_id() != owner_)
        throw store_error(
            "The store was asked from a thread that it does not belong to; please report it with what you did.");
}

/// Silently reopens a connection that was lost while idle.
QSqlQuery PostgresEngine::on_connection(const std::function<bool(QSqlQuery&)>& work) {
    check_thread();
    for (int attempt = 0;; ++attempt) {
        require_connection();
        QSqlQuery query(db_);
        if (work(query)) return query;
        const bool again = connection_lost(query.lastError().nativeErrorCode()) && !within() && !told_ && attempt == 0;
        if (!again) fail(query.lastError());
        connected_ = false;
    }
}

QSqlQuery PostgresEngine::prepared(const std::string& sql) {
    return on_connection([&](QSqlQuery& query) { return query.prepare(QString::fromStdString(sql)); });
}

// Another statement discards the rows of a streamed one, so streaming is used only on request.
QSqlQuery PostgresEngine::streamed(const std::string& sql) {
    return on_connection([&](QSqlQuery& query) {
        query.setForwardOnly(true);
        return query.prepare(QString::fromStdString(sql));
    });
}

QSqlQuery PostgresEngine::direct(const std::string& sql) {
    return on_connection([&](QSqlQuery& query) { return query.exec(QString::fromStdString(sql)); });
}

void PostgresEngine::execute(QSqlQuery& statement, const QVariantList& values) {
    check_thread();
    for (int i = 0; i < values.size(); ++i) statement.bindValue(i, values[i]);
    if (!statement.exec()) fail(statement.lastError());
}

void PostgresEngine::fail(const QSqlError& error) {
    const QString code = error.nativeErrorCode();
    const std::string store = address_.shown();
    failed_ = true;
    if (connection_lost(code)) {
        connected_ = false;
        throw lost();
    }
    const auto says = [&](const char* sentence) {
        return store_error(fmt::format(fmt::runtime(sentence), store), code.toStdString());
    };
    if (code == "40P01" || code == "40001")
        throw says(
            "Another station changed the same in the store {} at the same moment, so this was not taken; try again.");
    if (code == "55P03")
        throw store_error(fmt::format("The store {} is locked by {}; wait a moment, then try again.", store,
                                      holder_.empty() ? "another station"
                                                      : fmt::format("another station, which is there as {}", holder_)),
                          code.toStdString());
    if (code == "42501") throw says("You may not do that in the store {}; ask who keeps the studio for the right to.");
    if (code == "25006") throw says("The store {} is only read here, so nothing was changed; open it to be written.");
    if (code == "53100")
        throw says("The disk of the server of the store {} is full; have some space freed, then try again.");
    if (code == "53300")
        throw says("The server of the store {} takes no more connections; close a window, or have its limit raised.");
    throw store_error(
        fmt::format("The store {} refused to work ({}); check its server and try again.", store, words_of(error)),
        code.toStdString());
}

void PostgresEngine::begin() {
    failed_ = false;
    direct("BEGIN");
}

void PostgresEngine::commit() {
    // PostgreSQL would silently roll back a transaction in which a statement failed.
    if (failed_) throw store_error("A part of this change was given up, so nothing of it was kept; try again.");
    QSqlQuery id = direct("SELECT pg_current_xact_id_if_assigned()");
    const QString change = id.next() ? id.value(0).toString() : QString();
    if (!change.isEmpty()) mark_commit();
    QSqlQuery query(db_);
    if (query.exec("COMMIT")) return;
    if (!connection_lost(query.lastError().nativeErrorCode()) || change.isEmpty()) fail(query.lastError());
    if (!was_kept(change)) fail(query.lastError());
}

void PostgresEngine::mark_commit() {
    // The first commit of a connection also deletes marks of connections that are long gone.
    if (++commits_ == 1) direct("DELETE FROM commit_marks WHERE day < current_date - 7");
    run("INSERT INTO commit_marks (client, number, day) VALUES (?, ?, current_date) ON CONFLICT (client) DO UPDATE SET "
        "number = excluded.number, day = excluded.day",
        {client_, commits_});
}

/// Result of a COMMIT that got no answer. The transaction id alone does not tell: when the server crashes before it is
/// saved, the id is assigned again.
bool PostgresEngine::was_kept(const QString& change) {
    for (const auto until = Clock::now() + answer_wait; Clock::now() < until;) {
        connected_ = false;
        try {
            open();
            // Asks first whether it is still running: in the other order, it could end in between.
            QSqlQuery fate(db_), mark(db_);
            // The server refuses unknown transaction ids; it lost this one in a crash.
            const bool asked = fate.exec("SELECT pg_xact_status('" + change + "')");
            const bool unknown = !asked && !connection_lost(fate.lastError().nativeErrorCode());
            const bool ended = unknown || (asked && fate.next() && fate.value(0).toString() != "in progress");
            if (ended && mark.exec("SELECT number FROM commit_marks WHERE client = '" + client_ + "'"))
                return mark.next() && mark.value(0).toLongLong() == commits_;
        } catch (const Error&) {
            // It is not back yet.
        }
        std::this_thread::sleep_for(std::chrono::milliseconds(200));
    }
    connected_ = false;
    throw store_error(fmt::format(
        "The connection to the store {} was lost while this change was being kept; look whether it is there once the "
        "server is back.",
        address_.shown()));
}

void PostgresEngine::roll_back() noexcept {
    if (!connected_) return;  // the server rolls back by itself
    QSqlQuery query(db_);
    if (!query.exec("ROLLBACK")) connected_ = false;
}

void PostgresEngine::lock_part(const std::string& part) {
    const auto taken = [&](const char* manner) {
        return run(fmt::format("SELECT 1 FROM locks WHERE name = ? FOR NO KEY UPDATE{}", manner), {text(part)}).next();
    };
    if (taken(" SKIP LOCKED")) return;
    // Asks for the holder before waiting, because after a timeout the transaction allows no more statements.
    QSqlQuery who = run(
        "SELECT a.usename::text FROM locks l JOIN pg_locks k ON k.locktype = 'transactionid' AND k.transactionid = "
        "l.xmax AND k.granted AND k.mode = 'ExclusiveLock' JOIN pg_stat_activity a ON a.pid = k.pid WHERE l.name = ?",
        {text(part)});
    holder_ = who.next() ? text(who.value(0)) : std::string();
    if (!taken("")) {
        run("INSERT INTO locks (name) VALUES (?) ON CONFLICT DO NOTHING", {text(part)});
        taken("");
    }
    holder_.clear();
}

void PostgresEngine::number_after(const std::string& table) {
    direct(fmt::format("SELECT setval(pg_get_serial_sequence('{0}', 'id'), coalesce(max(id), 0) + 1, false) FROM {0}",
                       table));
}

std::unique_ptr<StoreHold> PostgresEngine::hold(const std::string& name) { return hold_on_server(another(), name); }

bool PostgresEngine::listen(QObject& context, std::function<void()> told) {
    told_ = std::move(told);
    QObject::connect(db_.driver(), &QSqlDriver::notification, &context, [this] { told_(); });
    listen_again();
    return true;
}

void PostgresEngine::listen_again() {
    if (told_) db_.driver()->subscribeToNotification("optrel");
}

std::string PostgresEngine::now() {
    QSqlQuery q = direct(R"(SELECT to_char(clock_timestamp() AT TIME ZONE 'UTC', 'YYYY-MM-DD"T"HH24:MI:SS"Z"'))");
    q.next();
    return text(q.value(0));
}

int PostgresEngine::schema() {
    QSqlQuery there = direct("SELECT to_regclass('optrel.about') IS NOT NULL");
    if (!there.next() || !there.value(0).toBool()) return 0;
    QSqlQuery q = direct("SELECT value FROM about WHERE name = 'schema'");
    return q.next() ? q.value(0).toInt() : 0;
}

void PostgresEngine::refuse_newer(int have) const {
    if (const auto newest = static_cast<int>(migrations().size()); have > newest)
        throw store_error(fmt::format(
            "The store {} has schema {}, written by a newer Optrel; this version knows schema {}: update Optrel.",
            address_.shown(), have, newest));
}

/// Copies all tables into a separate schema that only the owner may access.
void PostgresEngine::copy_before_migration(int have) {
    const std::string copy = fmt::format("optrel_schema_{}", have);
    if (direct(fmt::format("SELECT 1 WHERE to_regnamespace('{}') IS NOT NULL", copy)).next()) return;
    direct("CREATE SCHEMA " + copy);
    QSqlQuery tables = direct("SELECT tablename::text FROM pg_catalog.pg_tables WHERE schemaname = 'optrel'");
    std::vector<std::string> names;
    while (tables.next()) names.push_back(text(tables.value(0)));
    for (const std::string& name : names) direct(fmt::format("CREATE TABLE {0}.{1} AS TABLE optrel.{1}", copy, name));
}

void PostgresEngine::migrate(Access access) {
    const int newest = static_cast<int>(migrations().size());
    int have = schema();
    refuse_newer(have);
    if (have == newest) return;
    if (have == 0 && access != Access::begin)
        throw input_error(
            fmt::format("There is no store in {}; check the address, or begin one there with 'optrel-cli store begin'.",
                        address_.shown()));
    if (have > 0 && access != Access::upgrade) throw OutdatedStore(address_.shown(), have, newest);
    // Now exclusive: another process may have migrated meanwhile, or is waiting.
    Transaction transaction(*this);
    if (have == 0)
        direct("SELECT pg_advisory_xact_lock(1869640705)");  // there are no tables yet
    else
        direct("LOCK TABLE about IN SHARE ROW EXCLUSIVE MODE");
    have = schema();
    refuse_newer(have);
    if (have == newest) return transaction.commit();
    if (have > 0) copy_before_migration(have);
    if (have == 0) {
        direct("CREATE SCHEMA IF NOT EXISTS optrel");
        direct("CREATE TABLE IF NOT EXISTS about (name TEXT PRIMARY KEY, value TEXT NOT NULL)");
    }
    for (; have < newest; ++have)
        for (const char* step : migrations()[have]) direct(step);
    run(upsert("about", {"name", "value"}, "name"), {"schema", QString::number(newest)});
    people_.grant();
    transaction.commit();
}

}  // namespace optrel::postgres
