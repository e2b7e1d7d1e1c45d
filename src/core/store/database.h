// SPDX-License-Identifier: GPL-3.0-or-later
// Runs SQL statements on the database of a store. A database object belongs to the thread that opened it.
#pragma once

#include <QSqlQuery>
#include <QVariant>
#include <string>
#include <vector>

namespace optrel {

class Database {
public:
    virtual ~Database() = default;
    /// False when the database was opened read-only.
    virtual bool writable() const = 0;
    /// Prepares a statement for repeated use. Throws Error(store).
    virtual QSqlQuery prepared(const std::string& sql) = 0;
    /// The same for a large result that is streamed, not kept in memory: no other statement may run until all rows are
    /// read.
    virtual QSqlQuery streamed(const std::string& sql) = 0;
    /// Runs a statement without values. Throws Error(store).
    virtual QSqlQuery direct(const std::string& sql) = 0;
    virtual void execute(QSqlQuery& statement, const QVariantList& values) = 0;
    /// Runs a statement with positional values. Throws Error(store).
    QSqlQuery run(const std::string& sql, const QVariantList& values = {});
    /// Increments the change counter of a part of the store.
    void stamp(const std::string& part);
    /// Current time in the format of utc_now(), by the store's clock, which all stations share.
    virtual std::string now() = 0;
    /// SQL expression for the user name of this connection; an empty text when the engine has no users.
    virtual std::string login_in_sql() const = 0;
    /// SQL expression for the store's clock, in whole seconds.
    virtual std::string seconds_in_sql() const = 0;
    /// End of a SELECT statement that takes one row to work on: rows of `table` that are locked are skipped.
    virtual std::string skipping_locked(const std::string& table) const = 0;
    /// Whether the engine fills in and seals history rows by itself (history.h).
    virtual bool seals_history() const = 0;
};

/// Returns "INSERT ... ON CONFLICT (key) DO UPDATE SET ..." for these columns.
std::string upsert(const std::string& table, const std::vector<std::string>& columns, const std::string& key);
/// Inserts or updates many rows, several per statement to save round trips. All keys must differ.
void upsert_rows(Database& database, const std::string& table, const std::vector<std::string>& columns,
                 const std::string& key, const std::vector<QVariantList>& rows);
/// The same, but a row that is there stays as it is.
std::string insert_missing(const std::string& table, const std::vector<std::string>& columns);

inline QVariant text(const std::string& s) { return QString::fromStdString(s); }
inline std::string text(const QVariant& v) { return v.toString().toStdString(); }

}  // namespace optrel
