#include "store/database.h"

#include <fmt/format.h>

#include <QSqlError>
#include <atomic>

#include "base/error.h"

namespace optrel {
namespace {

/// Each entry brings the schema from its index to the next number. Entries are never changed once released.
const std::vector<std::vector<const char*>> migrations = {
    {
        "CREATE TABLE frames (path TEXT PRIMARY KEY, rendered INTEGER NOT NULL, maker TEXT, model TEXT, body_serial TEXT, lens TEXT, lens_serial TEXT,"
        " focal_mm REAL, aperture REAL, iso INTEGER, distance_m REAL, pitch_um REAL, width INTEGER, height INTEGER, time TEXT, size INTEGER, modified INTEGER)",
        "CREATE TABLE bodies (id TEXT PRIMARY KEY, maker TEXT, model TEXT, serial TEXT, name TEXT, asset_tag TEXT, width INTEGER, height INTEGER, pitch_um REAL)",
        "CREATE TABLE lenses (id TEXT PRIMARY KEY, lens TEXT, serial TEXT, name TEXT, asset_tag TEXT)",
        "CREATE TABLE profiles (id TEXT, version INTEGER, document TEXT NOT NULL, PRIMARY KEY (id, version))",
        "CREATE TABLE baselines (number INTEGER PRIMARY KEY, document TEXT NOT NULL)",
        "CREATE TABLE runs (id INTEGER PRIMARY KEY AUTOINCREMENT, name TEXT, chart TEXT, folder TEXT)",
        "CREATE TABLE run_frames (run INTEGER REFERENCES runs(id) ON DELETE CASCADE, position INTEGER, document TEXT NOT NULL, PRIMARY KEY (run, position))",
    },
};

}  // namespace

Store::Database::Database(const std::filesystem::path& file) : file_(file) {
    static std::atomic<int> counter{0};
    connection_ = fmt::format("store-{}", counter++);
    db_ = QSqlDatabase::addDatabase("QSQLITE", QString::fromStdString(connection_));
    db_.setDatabaseName(QString::fromStdString(file.string()));
    db_.setConnectOptions("QSQLITE_BUSY_TIMEOUT=2000");
    if (!db_.open())
        throw store_error(fmt::format("The store {} cannot be opened ({}); check that the folder may be read and written.", file.string(), db_.lastError().databaseText().toStdString()));
    run("PRAGMA foreign_keys = ON");
    run("PRAGMA journal_mode = WAL");
    run("PRAGMA synchronous = FULL");
    migrate();
}

Store::Database::~Database() {
    db_.close();
    db_ = QSqlDatabase();
    QSqlDatabase::removeDatabase(QString::fromStdString(connection_));
}

QSqlQuery Store::Database::run(const std::string& sql, const QVariantList& values) {
    QSqlQuery query(db_);
    query.setForwardOnly(true);
    bool ok = query.prepare(QString::fromStdString(sql));
    if (ok) {
        for (const QVariant& v : values) query.addBindValue(v);
        ok = query.exec();
    }
    if (ok) return query;
    const QSqlError error = query.lastError();
    const int code = error.nativeErrorCode().toInt() & 0xff;
    const std::string store = file_.string();
    switch (code) {
        case 5:
        case 6: throw store_error(fmt::format("The store {} is locked by another program; wait until it is done or close it, then try again.", store));
        case 8: throw store_error(fmt::format("The store {} is read-only; change the rights of its folder or choose another store.", store));
        case 13: throw store_error(fmt::format("The store {} cannot grow because the disk is full; free some space and try again.", store));
        case 11:
        case 26: throw store_error(fmt::format("{} is damaged or no store of Optrel; restore it from a copy or choose another folder.", store));
        default: throw store_error(fmt::format("The store {} refused to work ({}); check its disk and try again.", store, error.databaseText().toStdString()));
    }
}

Store::Database::Transaction::Transaction(Database& db) : db_(db) { db_.run("BEGIN IMMEDIATE"); }
Store::Database::Transaction::~Transaction() {
    if (!open_) return;
    try {
        db_.run("ROLLBACK");
    } catch (const Error&) {
        // SQLite rolls an unfinished transaction back by itself.
    }
}
void Store::Database::Transaction::commit() {
    db_.run("COMMIT");
    open_ = false;
}

void Store::Database::migrate() {
    const auto version = [&] {
        QSqlQuery q = run("PRAGMA user_version");
        q.next();
        return q.value(0).toInt();
    };
    const int newest = static_cast<int>(migrations.size());
    const auto refuse_newer = [&](int have) {
        if (have > newest)
            throw store_error(fmt::format("The store {} has schema {}, written by a newer Optrel; this version knows schema {}: update Optrel.", file_.string(), have, newest));
    };
    int have = version();
    refuse_newer(have);
    if (have == newest) return;
    Transaction transaction(*this);
    have = version();  // another program may have migrated meanwhile
    refuse_newer(have);
    for (; have < newest; ++have)
        for (const char* statement : migrations[have]) run(statement);
    run(fmt::format("PRAGMA user_version = {}", newest));
    transaction.commit();
}

}  // namespace optrel
