// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/database.h"

#include <fmt/format.h>

namespace optrel {

namespace {

std::string marks(std::size_t count) {
    std::string out;
    for (std::size_t i = 0; i < count; ++i) out += i == 0 ? "?" : ",?";
    return out;
}

}  // namespace

QSqlQuery Database::run(const std::string& sql, const QVariantList& values) {
    if (values.isEmpty()) return direct(sql);
    QSqlQuery query = prepared(sql);
    execute(query, values);
    return query;
}

void Database::stamp(const std::string& part) {
    run("INSERT INTO counters (name, value) VALUES (?, 1) ON CONFLICT (name) DO UPDATE SET value = counters.value + 1",
        {text(part)});
}

namespace {

std::string upsert_of(const std::string& table, const std::vector<std::string>& columns, const std::string& key,
                      std::size_t rows) {
    std::vector<std::string> renewed;
    for (const std::string& column : columns) renewed.push_back(fmt::format("{0} = excluded.{0}", column));
    const std::vector<std::string> values(rows, "(" + marks(columns.size()) + ")");
    return fmt::format("INSERT INTO {} ({}) VALUES {} ON CONFLICT ({}) DO UPDATE SET {}", table,
                       fmt::join(columns, ", "), fmt::join(values, ", "), key, fmt::join(renewed, ", "));
}

}  // namespace

std::string upsert(const std::string& table, const std::vector<std::string>& columns, const std::string& key) {
    return upsert_of(table, columns, key, 1);
}

void upsert_rows(Database& database, const std::string& table, const std::vector<std::string>& columns,
                 const std::string& key, const std::vector<QVariantList>& rows) {
    constexpr std::size_t together = 40;
    std::size_t at = 0;
    const auto put = [&](std::size_t count) {
        if (at + count > rows.size()) return;
        QSqlQuery statement = database.prepared(upsert_of(table, columns, key, count));
        for (; at + count <= rows.size(); at += count) {
            QVariantList values;
            for (std::size_t i = at; i < at + count; ++i) values += rows[i];
            database.execute(statement, values);
        }
    };
    put(together);
    put(1);
}

std::string insert_missing(const std::string& table, const std::vector<std::string>& columns) {
    return fmt::format("INSERT INTO {} ({}) VALUES ({}) ON CONFLICT DO NOTHING", table, fmt::join(columns, ", "),
                       marks(columns.size()));
}

}  // namespace optrel
