// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/table_rows.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <stdexcept>

namespace optrel {
namespace {

/// Columns and values in the order in which store_tables() lists the columns.
struct OrderedRow {
    std::vector<std::string> columns;
    QVariantList values;
};

std::vector<std::string> readable_columns(const StoreTable& table) {
    std::vector<std::string> out;
    for (const TableColumn& c : table.columns)
        if (c.kind != TableColumn::Kind::bytes) out.push_back(c.name);
    return out;
}

OrderedRow ordered(const StoreTable& table, const NamedValues& row) {
    OrderedRow out;
    for (const TableColumn& c : table.columns) {
        const auto given = std::find_if(row.begin(), row.end(), [&](const auto& v) { return c.name == v.first; });
        if (given == row.end() && table.numbered && c.name == "id") continue;
        if (given == row.end()) throw std::logic_error(fmt::format("{} lacks a value for {}", table.name, c.name));
        out.columns.push_back(c.name);
        out.values.push_back(given->second);
    }
    if (out.columns.size() != row.size()) throw std::logic_error(table.name + " has no column of one of the values");
    return out;
}

}  // namespace

TableReader::TableReader(Database& database, const std::string& table, const std::string& rest,
                         const QVariantList& values)
    : table_(table),
      columns_(readable_columns(store_table(table))),
      rows_(database.run(fmt::format("SELECT {} FROM {} {}", fmt::join(columns_, ", "), table, rest), values)) {}

QVariant TableReader::value(const char* column) const {
    const auto it = std::find(columns_.begin(), columns_.end(), column);
    if (it == columns_.end()) throw std::logic_error(fmt::format("{} has no column {}", table_, column));
    return rows_.value(static_cast<int>(it - columns_.begin()));
}

void put_row(Database& database, const std::string& table, const NamedValues& row) {
    const StoreTable& described = store_table(table);
    const OrderedRow all = ordered(described, row);
    database.run(upsert(table, all.columns, described.key), all.values);
}

void add_missing_row(Database& database, const std::string& table, const NamedValues& row) {
    const OrderedRow all = ordered(store_table(table), row);
    database.run(insert_missing(table, all.columns), all.values);
}

void add_rows(Database& database, const std::string& table, const std::vector<NamedValues>& rows) {
    if (rows.empty()) return;
    const StoreTable& described = store_table(table);
    const OrderedRow first = ordered(described, rows.front());
    const std::vector<std::string> marks(first.columns.size(), "?");
    QSqlQuery statement = database.prepared(
        fmt::format("INSERT INTO {} ({}) VALUES ({})", table, fmt::join(first.columns, ", "), fmt::join(marks, ", ")));
    for (const NamedValues& row : rows) database.execute(statement, ordered(described, row).values);
}

}  // namespace optrel
