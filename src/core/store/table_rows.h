// SPDX-License-Identifier: GPL-3.0-or-later
// Reads and writes rows by the names of columns, in the statements that follow from the description in tables.h. A name
// that is not described is a mistake in the program and throws std::logic_error.
#pragma once

#include <string>
#include <type_traits>
#include <utility>
#include <variant>
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

/// A column and the member of a record that it keeps.
template <class T>
struct RecordColumn {
    const char* name;
    std::variant<std::string T::*, int T::*, double T::*, bool T::*> member;
};
template <class T>
using RecordColumns = std::vector<RecordColumn<T>>;

/// Records of a table whose columns are all members; `rest` as for TableReader.
template <class T>
std::vector<T> read_records(Database& database, const std::string& table, const RecordColumns<T>& columns,
                            const std::string& rest) {
    std::vector<T> out;
    for (TableReader row(database, table, rest); row.next();) {
        T& record = out.emplace_back();
        for (const RecordColumn<T>& c : columns)
            std::visit(
                [&](auto member) {
                    using Kept = std::remove_reference_t<decltype(record.*member)>;
                    if constexpr (std::is_same_v<Kept, std::string>)
                        record.*member = row.text(c.name);
                    else
                        record.*member = row.value(c.name).template value<Kept>();
                },
                c.member);
    }
    return out;
}

/// The row of such a record.
template <class T>
NamedValues row_of(const T& record, const RecordColumns<T>& columns) {
    NamedValues out;
    for (const RecordColumn<T>& c : columns)
        std::visit(
            [&](auto member) {
                if constexpr (std::is_same_v<std::remove_cvref_t<decltype(record.*member)>, std::string>)
                    out.emplace_back(c.name, text(record.*member));
                else
                    out.emplace_back(c.name, record.*member);
            },
            c.member);
    return out;
}

/// Inserts a row, or updates the one of the same key. Every column of the table must be given, except an id that the
/// engine assigns. Throws Error(store).
void put_row(Database& database, const std::string& table, const NamedValues& row);
/// The same, but a row that is there stays as it is.
void add_missing_row(Database& database, const std::string& table, const NamedValues& row);
/// Inserts rows with the same columns.
void add_rows(Database& database, const std::string& table, const std::vector<NamedValues>& rows);

}  // namespace optrel
