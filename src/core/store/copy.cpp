// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/copy.h"

#include <fmt/format.h>

#include <QCryptographicHash>
#include <algorithm>
#include <map>
#include <optional>

#include "base/error.h"
#include "rollout/packed_plan.h"
#include "store/engine.h"
#include "store/tables.h"

namespace optrel {
namespace {

/// Number of rows per transaction.
constexpr int batch = 500;

/// Marker in the counters that a copy into this store was begun; it is not copied itself.
const std::string begun_mark = "copy begun";

std::string select_all(const StoreTable& t) {
    return fmt::format("SELECT {} FROM {} ORDER BY {}", fmt::join(t.column_names(), ", "), t.name, t.key);
}

/// Converts a value for any engine: some return booleans as numbers.
QVariant plain(const QVariant& value, TableColumn::Kind kind) {
    using Kind = TableColumn::Kind;
    if (value.isNull()) return {};
    switch (kind) {
        case Kind::words: return value.toString();
        case Kind::whole: return value.toLongLong();
        case Kind::real: return value.toDouble();
        case Kind::yes: return value.toBool();
        case Kind::bytes: return value.toByteArray();
    }
    return {};
}

QByteArray bytes_of(const QVariant& value, TableColumn::Kind kind) {
    using Kind = TableColumn::Kind;
    if (kind == Kind::real) return QByteArray::number(value.toDouble(), 'g', 17);
    return kind == Kind::bytes ? value.toByteArray() : value.toString().toUtf8();
}

/// Appends a value unambiguously to the digest.
void digest(QCryptographicHash& hash, const QVariant& value, TableColumn::Kind kind) {
    const QVariant v = plain(value, kind);
    const QByteArray bytes = bytes_of(v, kind);
    hash.addData(v.isNull() ? QByteArray("-;") : QByteArray::number(bytes.size()) + ":" + bytes + ";");
}

bool is_mark(const StoreTable& t, const QSqlQuery& row) {
    return t.name == "counters" && text(row.value(0)).starts_with(begun_mark);
}

CopiedTable digest_of(Engine& engine, const StoreTable& t, Progress& progress) {
    CopiedTable out{t.name, 0, ""};
    QCryptographicHash hash(QCryptographicHash::Sha256);
    QSqlQuery q = engine.streamed(select_all(t));
    engine.execute(q, {});
    while (q.next()) {
        if (out.rows % batch == 0) progress.check();
        if (is_mark(t, q)) continue;
        for (std::size_t i = 0; i < t.columns.size(); ++i)
            digest(hash, q.value(static_cast<int>(i)), t.columns[i].kind);
        ++out.rows;
    }
    out.digest = hash.result().toHex().toStdString();
    return out;
}

std::string row_of(const RolloutRecord& r) {
    return fmt::format("{}|{}|{}|{}|{}|{}|{}|{}|{}|{}", r.number, r.revision, r.author, r.time, r.frames, r.station,
                       r.scope, to_string(r.hours), r.takes_back, to_string(r.status));
}

/// Rollouts that can be copied, by number.
std::vector<RolloutRecord> sound_rollouts(RolloutStore& shelf) {
    std::vector<RolloutRecord> out = shelf.list();
    std::erase_if(out, [](const RolloutRecord& r) {
        return r.status == RolloutStatus::damaged || r.status == RolloutStatus::preparing;
    });
    std::reverse(out.begin(), out.end());
    return out;
}

/// Empty, with a message, when they are damaged.
std::optional<std::vector<RolloutEntry>> readable_entries(RolloutStore& shelf, const RolloutRecord& record,
                                                          std::vector<std::string>& problems) {
    try {
        return shelf.entries(record);
    } catch (const Error& error) {
        problems.emplace_back(error.what());
        return std::nullopt;
    }
}

CopiedTable rollout_digest(RolloutStore& shelf, Progress& progress) {
    CopiedTable out{"rollouts", 0, ""};
    QCryptographicHash hash(QCryptographicHash::Sha256);
    for (const RolloutRecord& r : sound_rollouts(shelf)) {
        progress.check();
        std::vector<std::string> told_by_the_copy;
        const auto entries = readable_entries(shelf, r, told_by_the_copy);
        if (!entries) continue;
        const PackedPlan packed = pack(*entries);
        for (const std::string& piece : {row_of(r), packed.plan, packed.data})
            hash.addData(QByteArray::number(static_cast<qlonglong>(piece.size())) + ":" +
                         QByteArray::fromRawData(piece.data(), static_cast<qsizetype>(piece.size())));
        ++out.rows;
    }
    out.digest = hash.result().toHex().toStdString();
    return out;
}

void copy_table(Engine& from, Engine& to, const StoreTable& t, Progress& progress) {
    const std::string put_sql =
        t.only_added ? insert_missing(t.name, t.column_names()) : upsert(t.name, t.column_names(), t.key);
    QSqlQuery rows = from.streamed(select_all(t));
    from.execute(rows, {});
    for (bool more = rows.next(); more;) {
        progress.check();
        Transaction transaction(to);
        QSqlQuery put = to.prepared(put_sql);
        for (int i = 0; i < batch && more; ++i, more = rows.next()) {
            if (is_mark(t, rows)) continue;
            QVariantList values;
            for (std::size_t c = 0; c < t.columns.size(); ++c)
                values.push_back(plain(rows.value(static_cast<int>(c)), t.columns[c].kind));
            to.execute(put, values);
        }
        transaction.commit();
    }
    if (t.numbered) to.number_after(t.name);
}

/// Throws when the store contains anything that is not from an earlier copy of `origin`.
void require_room(Store& to, const std::string& origin) {
    const std::string mark = begun_mark + " from " + origin;
    std::map<std::string, long long> counters = to.stamps();
    if (counters.count(mark)) return;
    bool empty = to.rollouts().list().empty();
    for (const StoreTable& t : store_tables())
        empty = empty && !to.engine().run(fmt::format("SELECT 1 FROM {} LIMIT 1", t.name)).next();
    if (!empty)
        throw input_error(fmt::format(
            "The store {} is not empty, and nothing in it is replaced; copy to a new one, or to one that an earlier "
            "copy from the same store was stopped in.",
            to.source().address()));
    to.engine().stamp(mark);
}

void compare(const std::vector<CopiedTable>& a, const std::vector<CopiedTable>& b) {
    for (std::size_t i = 0; i < a.size(); ++i)
        if (a[i].rows != b[i].rows || a[i].digest != b[i].digest)
            throw store_error(fmt::format(
                "The copy differs from its origin in {} ({} rows there, {} here): something was taken out of the "
                "origin since the copy was begun; copy to a new store.",
                a[i].name, a[i].rows, b[i].rows));
}

}  // namespace

std::vector<CopiedTable> store_digests(Store& store, Progress& progress) {
    std::vector<CopiedTable> out;
    progress.start(static_cast<int>(store_tables().size()), "Reading tables of " + store.source().address());
    for (const StoreTable& t : store_tables()) {
        out.push_back(digest_of(store.engine(), t, progress));
        progress.step();
    }
    out.push_back(rollout_digest(store.rollouts(), progress));
    return out;
}

StoreCopy copy_store(Store& from, Store& to, Progress& progress) {
    const std::string origin = from.source().address();
    if (origin == to.source().address())
        throw input_error("A store cannot be copied onto itself; name two different ones.");
    StoreCopy out;
    std::optional<Transaction> instant;
    if (from.writable()) instant.emplace(from.engine(), Transaction::one_instant);
    require_room(to, origin);
    progress.start(static_cast<int>(store_tables().size()), "Copying tables");
    for (const StoreTable& t : store_tables()) {
        copy_table(from.engine(), to.engine(), t, progress);
        progress.step();
    }
    for (const RolloutRecord& listed : from.rollouts().list())
        if (listed.status == RolloutStatus::damaged) out.problems.push_back(listed.problem);
    const std::vector<RolloutRecord> rollouts = sound_rollouts(from.rollouts());
    progress.start(static_cast<int>(rollouts.size()), "Copying rollouts");
    for (const RolloutRecord& r : rollouts) {
        progress.check();
        if (const auto entries = readable_entries(from.rollouts(), r, out.problems)) to.rollouts().keep(r, *entries);
        progress.step();
    }
    out.tables = store_digests(from, progress);
    compare(out.tables, store_digests(to, progress));
    to.engine().run("DELETE FROM counters WHERE name = ?", {text(begun_mark + " from " + origin)});
    if (instant) instant->commit();
    return out;
}

}  // namespace optrel
