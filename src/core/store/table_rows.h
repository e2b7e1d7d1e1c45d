// SPDX-License-Identifier: GPL-3.0-or-later
// Reads and writes rows by the names of columns, in the statements that follow from the description in tables.h. A name
// that is not described is a mistake in the program and throws std::logic_error.
#pragma once

#include <string>
#include <utility>
#include <vector>

#include "store/database.h"
#include "store/tables.h"

namespace optrel {

/// Rows of a table, without columns of bytes.
class TableReader {
public:
    /// `rest` follows "SELECT ... FROM table": conditions and the order. Throws Error(store).
    TableReader(Database& database, const std::string& table, const std::string& rest = "",
                const QVariantList& values = {});
    bool next() { return rows_.next(); }
    QVariant value(const char* column) const;
    std::string text(const char* column) const { return optrel::text(value(column)); }
    int whole(const char* column) const { return value(column).toInt(); }
    double real(const char* column) const { return value(column).toDouble(); }
    bool yes(const char* column) const { return value(column).toBool(); }

private:
    std::string table_;
    std::vector<std::string> columns_;
    QSqlQuery rows_;
};

using NamedValues = std::vector<std::pair<const char*, QVariant>>;

/// Inserts a row, or updates the one of the same key. Every column of the table must be given, except an id that the
/// engine assigns. Throws Error(store).
void put_row(Database& database, const std::string& table, const NamedValues& row);
/// The same, but a row that is there stays as it is.
void add_missing_row(Database& database, const std::string& table, const NamedValues& row);
/// Inserts rows with the same columns.
void add_rows(Database& database, const std::string& table, const std::vector<NamedValues>& rows);

}  // namespace optrel
