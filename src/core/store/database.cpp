#include "store/database.h"

#include <fmt/format.h>

#include <unistd.h>

#include <QSqlError>
#include <QUrl>
#include <atomic>

#include "base/error.h"

namespace optrel {
namespace {

/// Each entry brings the schema from its index to the next number. Entries are never changed once released.
const std::vector<std::vector<const char*>> migrations = {
    {
        "CREATE TABLE frames (path TEXT PRIMARY KEY, rendered INTEGER NOT NULL, maker TEXT, model TEXT, body_serial "
        "TEXT, lens TEXT, lens_serial TEXT,"
        " focal_mm REAL, aperture REAL, iso INTEGER, distance_m REAL, pitch_um REAL, width INTEGER, height INTEGER, "
        "time TEXT, size INTEGER, modified INTEGER)",
        "CREATE TABLE bodies (id TEXT PRIMARY KEY, maker TEXT, model TEXT, serial TEXT, name TEXT, asset_tag TEXT, "
        "width INTEGER, height INTEGER, pitch_um REAL)",
        "CREATE TABLE lenses (id TEXT PRIMARY KEY, lens TEXT, serial TEXT, name TEXT, asset_tag TEXT)",
        "CREATE TABLE profiles (id TEXT, version INTEGER, document TEXT NOT NULL, PRIMARY KEY (id, version))",
        "CREATE TABLE baselines (number INTEGER PRIMARY KEY, document TEXT NOT NULL)",
        "CREATE TABLE runs (id INTEGER PRIMARY KEY AUTOINCREMENT, name TEXT, chart TEXT, folder TEXT)",
        "CREATE TABLE run_frames (run INTEGER REFERENCES runs(id) ON DELETE CASCADE, position INTEGER, document TEXT "
        "NOT NULL, PRIMARY KEY (run, position))",
    },
    {
        "ALTER TABLE frames ADD COLUMN other_serials TEXT",
        "ALTER TABLE frames ADD COLUMN filter TEXT",
        "ALTER TABLE frames ADD COLUMN recorded TEXT",
        // What was indexed before lacks these; it is read again when its folder is added again.
        "UPDATE frames SET modified = 0",
        "ALTER TABLE bodies ADD COLUMN room TEXT",
        "ALTER TABLE bodies ADD COLUMN condition TEXT",
        "ALTER TABLE bodies ADD COLUMN notes TEXT",
        "ALTER TABLE bodies ADD COLUMN in_service INTEGER NOT NULL DEFAULT 1",
        "ALTER TABLE lenses ADD COLUMN contacts INTEGER NOT NULL DEFAULT 1",
        "ALTER TABLE lenses ADD COLUMN focal_min REAL",
        "ALTER TABLE lenses ADD COLUMN focal_max REAL",
        "ALTER TABLE lenses ADD COLUMN aperture_min REAL",
        "ALTER TABLE lenses ADD COLUMN aperture_max REAL",
        "ALTER TABLE lenses ADD COLUMN room TEXT",
        "ALTER TABLE lenses ADD COLUMN notes TEXT",
        "ALTER TABLE lenses ADD COLUMN in_service INTEGER NOT NULL DEFAULT 1",
        "CREATE TABLE models (id TEXT PRIMARY KEY, maker TEXT, model TEXT, width INTEGER, height INTEGER, pitch_um "
        "REAL, filter TEXT, recorded_adds TEXT, notes TEXT)",
        "INSERT OR IGNORE INTO models (id, maker, model, width, height, pitch_um) SELECT CASE WHEN maker = '' OR "
        "substr(model, 1, length(maker)) = maker THEN model"
        " WHEN model = '' THEN maker ELSE maker || ' ' || model END, maker, model, width, height, pitch_um FROM bodies",
        "CREATE TABLE claims (id TEXT PRIMARY KEY, document TEXT NOT NULL)",
        "CREATE TABLE history (id INTEGER PRIMARY KEY AUTOINCREMENT, time TEXT, author TEXT, kind TEXT, subject TEXT, "
        "what TEXT, before TEXT, after TEXT)",
        "CREATE INDEX history_of ON history (kind, subject)",
        // The draft is kept tier by tier and set by set, so that one edit of a long draft is one short write.
        "CREATE TABLE draft (kind TEXT, id TEXT, document TEXT NOT NULL, PRIMARY KEY (kind, id))",
        "CREATE TABLE counters (name TEXT PRIMARY KEY, value INTEGER NOT NULL)",
    },
    {
        "ALTER TABLE frames ADD COLUMN orientation INTEGER NOT NULL DEFAULT 1",
        // More is read now of raw files in ISO base media containers; what was indexed before is read again with its
        // folder.
        "UPDATE frames SET modified = 0",
    },
};

}  // namespace

Store::Database::Database(const std::filesystem::path& file, Access access) : file_(file) {
    static std::atomic<int> counter{0};
    connection_ = fmt::format("store-{}", counter++);
    db_ = QSqlDatabase::addDatabase("QSQLITE", QString::fromStdString(connection_));
    try {
        try {
            open_for_writing();
        } catch (const Error&) {
            if (access != Access::read) throw;
            open_frozen();
        }
    } catch (...) {
        db_.close();
        db_ = QSqlDatabase();
        QSqlDatabase::removeDatabase(QString::fromStdString(connection_));
        throw;
    }
}

void Store::Database::open(const QString& name, const QString& options) {
    db_.close();
    db_.setDatabaseName(name);
    db_.setConnectOptions("QSQLITE_BUSY_TIMEOUT=10000" + options);
    if (!db_.open())
        throw store_error(
            fmt::format("The store {} cannot be opened ({}); check that the folder may be read and written.",
                        file_.string(), db_.lastError().databaseText().toStdString()));
}

void Store::Database::open_for_writing() {
    // The driver opens a file that may not be written for reading only, without a word.
    if (std::filesystem::exists(file_) && ::access(file_.c_str(), W_OK) != 0)
        throw store_error(fmt::format(
            "The store {} is read-only; change the rights of its folder or choose another store.", file_.string()));
    open(QString::fromStdString(file_.string()), "");
    run("PRAGMA foreign_keys = ON");
    run("PRAGMA journal_mode = WAL");
    run("PRAGMA synchronous = FULL");
    migrate();
}

void Store::Database::open_frozen() {
    writable_ = false;
    // What was committed last may still stand in the write-ahead log, which a frozen file is read without: then a copy
    // of both is read.
    std::filesystem::path read = file_;
    const std::filesystem::path log = file_.string() + "-wal";
    std::error_code none;
    if (const auto size = std::filesystem::file_size(log, none); !none && size > 0) {
        copy_ = std::make_unique<QTemporaryDir>();
        read = std::filesystem::path(copy_->path().toStdString()) / "store.sqlite";
        std::error_code failed;
        std::filesystem::copy_file(file_, read, failed);
        if (!failed) std::filesystem::copy_file(log, read.string() + "-wal", failed);
        if (failed)
            throw store_error(fmt::format(
                "The store {} cannot be written, and no copy of it can be made to be read ({}); free some space.",
                file_.string(), failed.message()));
        open(QString::fromStdString(read.string()), "");
    } else {
        open("file:" + QString::fromUtf8(QUrl::toPercentEncoding(QString::fromStdString(read.string()), "/")) +
                 "?immutable=1",
             ";QSQLITE_OPEN_READONLY;QSQLITE_OPEN_URI");
    }
    const int have = schema(), newest = static_cast<int>(migrations.size());
    if (have != newest)
        throw store_error(
            fmt::format("The store {} has schema {} and this version reads schema {}; make it writable once so that it "
                        "can be brought up to date, or update Optrel.",
                        file_.string(), have, newest));
}

void Store::Database::check_thread() const {
    if (std::this_thread::get_id() != owner_)
        throw store_error(
            "The store was asked from a thread that it does not belong to; please report it with what you did.");
}

Store::Database::~Database() {
    db_.close();
    db_ = QSqlDatabase();
    QSqlDatabase::removeDatabase(QString::fromStdString(connection_));
}

QSqlQuery Store::Database::prepared(const std::string& sql) {
    check_thread();
    QSqlQuery query(db_);
    query.setForwardOnly(true);
    if (!query.prepare(QString::fromStdString(sql))) fail(query.lastError());
    return query;
}

void Store::Database::execute(QSqlQuery& statement, const QVariantList& values) {
    for (int i = 0; i < values.size(); ++i) statement.bindValue(i, values[i]);
    if (!statement.exec()) fail(statement.lastError());
}

QSqlQuery Store::Database::run(const std::string& sql, const QVariantList& values) {
    QSqlQuery query = prepared(sql);
    execute(query, values);
    return query;
}

void Store::Database::fail(const QSqlError& error) const {
    const int code = error.nativeErrorCode().toInt() & 0xff;
    const std::string store = file_.string();
    switch (code) {
        case 5:
        case 6:
            throw store_error(fmt::format(
                "The store {} is locked by another program; wait until it is done or close it, then try again.",
                store));
        case 8:
            throw store_error(fmt::format(
                "The store {} is read-only; change the rights of its folder or choose another store.", store));
        case 13:
            throw store_error(fmt::format(
                "The store {} cannot grow because the disk is full; free some space and try again.", store));
        case 11:
        case 26:
            throw store_error(fmt::format(
                "{} is damaged or no store of Optrel; restore it from a copy or choose another folder.", store));
        default:
            throw store_error(fmt::format("The store {} refused to work ({}); check its disk and try again.", store,
                                          error.databaseText().toStdString()));
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

int Store::Database::schema() {
    QSqlQuery q = run("PRAGMA user_version");
    q.next();
    return q.value(0).toInt();
}

void Store::Database::migrate() {
    const int newest = static_cast<int>(migrations.size());
    const auto refuse_newer = [&](int have) {
        if (have > newest)
            throw store_error(fmt::format(
                "The store {} has schema {}, written by a newer Optrel; this version knows schema {}: update Optrel.",
                file_.string(), have, newest));
    };
    int have = schema();
    refuse_newer(have);
    if (have == newest) return;
    Transaction transaction(*this);
    have = schema();  // another program may have migrated meanwhile
    refuse_newer(have);
    for (; have < newest; ++have)
        for (const char* statement : migrations[have]) run(statement);
    run(fmt::format("PRAGMA user_version = {}", newest));
    transaction.commit();
}

}  // namespace optrel
