// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/engine.h"

#include <fmt/format.h>

#include "base/error.h"
#include "base/station.h"
#include "base/words.h"

namespace optrel {
namespace {

std::string marks(std::size_t count) {
    std::string out;
    for (std::size_t i = 0; i < count; ++i) out += i == 0 ? "?" : ",?";
    return out;
}

}  // namespace

QSqlQuery Engine::run(const std::string& sql, const QVariantList& values) {
    if (values.isEmpty()) return direct(sql);
    QSqlQuery query = prepared(sql);
    execute(query, values);
    return query;
}

void Engine::record(HistoryEntry entry) {
    // Names may be of bytes that are no text; the seal is formed of what can be read back.
    for (std::string* said : {&entry.author, &entry.subject, &entry.what, &entry.before, &entry.after})
        if (!is_utf8(*said)) *said = printable(*said);
    Transaction own_or_joined(*this);
    told_.push_back(std::move(entry));
    own_or_joined.commit();
}

void Engine::stamp(const std::string& part) {
    run("INSERT INTO counters (name, value) VALUES (?, 1) ON CONFLICT (name) DO UPDATE SET value = counters.value + 1",
        {text(part)});
}

QVariant Engine::kept(const std::filesystem::path& path) const { return text(roots_.kept(path)); }

std::filesystem::path Engine::here(const QVariant& kept) const { return roots_.here(text(kept)); }

void Engine::read_roots() {
    std::vector<RootPlace> mine = StoredRoots(*this).all();
    std::erase_if(mine, [](const RootPlace& p) { return p.station != this_station(); });
    roots_ = RootMap(std::move(mine));
}

Transaction::Transaction(Engine& engine) : engine_(engine) {
    if (engine_.depth_ == 0) {
        engine_.begin();
        engine_.doomed_ = false;
    }
    ++engine_.depth_;
}

Transaction::Transaction(Engine& engine, const std::string& part) : Transaction(engine) { engine.lock_part(part); }

Transaction::Transaction(Engine& engine, Manner) : Transaction(engine) { engine.read_one_instant(); }

Transaction::~Transaction() {
    if (!open_) return;
    engine_.doomed_ = true;
    if (--engine_.depth_ > 0) return;
    engine_.told_.clear();
    ++engine_.taken_back_;
    engine_.roll_back();
}

void Transaction::commit() {
    if (engine_.doomed_) throw store_error("A part of this change was given up, so nothing of it was kept; try again.");
    if (engine_.depth_ == 1) {
        HistoryMark newest;
        for (const HistoryEntry& entry : engine_.told_) newest = write_history(engine_, entry);
        engine_.told_.clear();
        engine_.commit();
        if (newest.id > 0 && engine_.sealed_told_) engine_.sealed_told_(newest);
    }
    --engine_.depth_;
    open_ = false;
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

void upsert_rows(Engine& engine, const std::string& table, const std::vector<std::string>& columns,
                 const std::string& key, const std::vector<QVariantList>& rows) {
    constexpr std::size_t together = 40;
    std::size_t at = 0;
    const auto put = [&](std::size_t count) {
        if (at + count > rows.size()) return;
        QSqlQuery statement = engine.prepared(upsert_of(table, columns, key, count));
        for (; at + count <= rows.size(); at += count) {
            QVariantList values;
            for (std::size_t i = at; i < at + count; ++i) values += rows[i];
            engine.execute(statement, values);
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
