// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/sqlite/sqlite_engine.h"

#include <fcntl.h>
#include <fmt/format.h>
#include <sys/vfs.h>
#include <unistd.h>

#include <QUrl>
#include <algorithm>
#include <array>
#include <atomic>
#include <cerrno>

#include "base/error.h"
#include "base/files.h"
#include "base/paths.h"
#include "base/words.h"
#include "frames/metadata.h"
#include "store/history.h"
#include "store/outdated.h"
#include "store/roots.h"
#include "store/sqlite/schema.h"

namespace optrel::sqlite {
namespace {

namespace fs = std::filesystem;

/// Stores in the parent folder, for suggestions after a typing error.
std::vector<std::string> stores_beside(const fs::path& folder) {
    std::vector<std::string> out;
    std::error_code none;
    const fs::path parent = plain_path(folder).parent_path();
    for (const fs::directory_entry& entry : fs::directory_iterator(parent, none))
        if (is_store(entry.path()))
            out.push_back(
                (folder.has_parent_path() ? folder.parent_path() / entry.path().filename() : entry.path().filename())
                    .string());
    return out;
}

/// Prepares a folder for a new store: creates it if necessary, and refuses folders with pictures.
void make_place(const fs::path& folder) {
    std::error_code failed;
    for (const fs::directory_entry& entry : fs::directory_iterator(folder, failed))
        if (named_as_picture(entry.path()))
            throw input_error(
                fmt::format("{} holds pictures ({}), so no store is begun in it; name a folder of its own.",
                            printable(folder.string()), printable(entry.path().filename().string())));
    failed.clear();
    fs::create_directories(folder, failed);
    if (failed || !fs::is_directory(folder))
        throw store_error(fmt::format("The store's folder {} cannot be made ({}); choose another one.", folder.string(),
                                      failed.message()));
}

/// Tests by writing, because the reported free space ignores quotas and reserved blocks.
bool is_full(const fs::path& folder) {
    const fs::path probe = part_beside(folder / "space");
    const int fd = ::open(probe.c_str(), O_WRONLY | O_CREAT | O_EXCL | O_CLOEXEC, 0600);
    bool full = fd < 0 && (errno == ENOSPC || errno == EDQUOT);
    if (fd >= 0) {
        const std::array<char, 65536> nothing{};
        const ssize_t written = ::write(fd, nothing.data(), nothing.size());
        full = written < 0 ? errno == ENOSPC || errno == EDQUOT : written < static_cast<ssize_t>(nothing.size());
        ::close(fd);
        ::unlink(probe.c_str());
    }
    return full;
}

void refuse_network(const fs::path& folder) {
    struct statfs about {};
    if (::statfs(folder.c_str(), &about) != 0 || !is_network_file_system(about.f_type)) return;
    throw store_error(
        fmt::format("The store {} lies on a network file system, where its locks do not hold; keep it on a disk of "
                    "this machine, or on a server for several stations (postgresql://USER@HOST/NAME).",
                    folder.string()));
}

}  // namespace

bool is_store(const fs::path& folder) {
    std::error_code none;
    return fs::is_regular_file(folder / "store.sqlite", none);
}

bool is_network_file_system(long long magic) {
    // NFS, SMB (three generations), AFS, Ceph, Lustre, GPFS, Coda, OCFS2: see statfs(2).
    static constexpr std::array<std::uint32_t, 10> known{0x6969,     0x517b,     0xff534d42, 0xfe534d42, 0x5346414f,
                                                         0x00c36400, 0x0bd00bd0, 0x47504653, 0x73757245, 0x7461636f};
    return std::find(known.begin(), known.end(), static_cast<std::uint32_t>(magic)) != known.end();
}

SqliteEngine::SqliteEngine(const fs::path& folder, Access access)
    : file_(folder / "store.sqlite"), shelf_(folder / "rollouts") {
    if (!is_store(folder)) {
        if (access != Access::begin)
            throw input_error(fmt::format(
                "There is no store in {}{}; check the path, or begin one there with 'optrel-cli store begin'.",
                printable(folder.string()), nearest_clause(folder.string(), stores_beside(folder))));
        make_place(folder);
    }
    refuse_network(folder);
    const bool reading = access == Access::read || access == Access::rollouts;
    static std::atomic<int> counter{0};
    connection_ = fmt::format("store-{}", counter++);
    db_ = QSqlDatabase::addDatabase("QSQLITE", QString::fromStdString(connection_));
    try {
        try {
            open_for_writing(access);
            if (reading) {
                direct("PRAGMA query_only = ON");
                writable_ = false;
            }
        } catch (const OutdatedStore&) {
            throw;
        } catch (const Error&) {
            if (!reading) throw;
            open_frozen();
        }
    } catch (...) {
        close();
        throw;
    }
    optrel::read_roots(*this);
    std::error_code failed;
    if (writable_) fs::create_directories(folder / "rollouts", failed);
}

SqliteEngine::SqliteEngine(const fs::path& file, const std::string& connection)
    : connection_(connection), file_(file), shelf_(file.parent_path() / "rollouts") {
    db_ = QSqlDatabase::addDatabase("QSQLITE", QString::fromStdString(connection_));
    try {
        open(QString::fromStdString(file_.string()), "");
    } catch (...) {
        close();
        throw;
    }
}

SqliteEngine::~SqliteEngine() { close(); }

void SqliteEngine::close() {
    db_.close();
    db_ = QSqlDatabase();
    QSqlDatabase::removeDatabase(QString::fromStdString(connection_));
}

void SqliteEngine::open(const QString& name, const QString& options) {
    db_.close();
    db_.setDatabaseName(name);
    db_.setConnectOptions("QSQLITE_BUSY_TIMEOUT=10000" + options);
    if (!db_.open())
        throw store_error(
            fmt::format("The store {} cannot be opened ({}); check that the folder may be read and written.",
                        file_.string(), db_.lastError().databaseText().toStdString()));
}

void SqliteEngine::open_for_writing(Access access) {
    // The driver silently opens a file without write permission as read-only.
    if (fs::exists(file_) && ::access(file_.c_str(), W_OK) != 0)
        throw store_error(fmt::format(
            "The store {} is read-only; change the rights of its folder or choose another store.", file_.string()));
    open(QString::fromStdString(file_.string()), "");
    run("PRAGMA foreign_keys = ON");
    run("PRAGMA journal_mode = WAL");
    run("PRAGMA synchronous = FULL");
    migrate(access);
}

void SqliteEngine::open_frozen() {
    writable_ = false;
    // Recent commits may be in the write-ahead log, which is ignored when reading a read-only file; then a copy of both
    // is read.
    fs::path read = file_;
    const fs::path log = file_.string() + "-wal";
    std::error_code none;
    if (const auto size = fs::file_size(log, none); !none && size > 0) {
        copy_ = std::make_unique<QTemporaryDir>();
        read = fs::path(copy_->path().toStdString()) / "store.sqlite";
        std::error_code failed;
        fs::copy_file(file_, read, failed);
        if (!failed) fs::copy_file(log, read.string() + "-wal", failed);
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
    const int have = schema(), newest = static_cast<int>(migrations().size());
    if (have < newest) throw OutdatedStore(file_.string(), have, newest);
    if (have > newest)
        throw store_error(fmt::format("The store {} has schema {}, and this version reads schema {}; update Optrel.",
                                      file_.string(), have, newest));
}

void SqliteEngine::check_thread() const {
    if (std::this_thread::get_id() != owner_)
        throw store_error(
            "The store was asked from a thread that it does not belong to; please report it with what you did.");
}

QSqlQuery SqliteEngine::prepared(const std::string& sql) {
    check_thread();
    QSqlQuery query(db_);
    query.setForwardOnly(true);
    if (!query.prepare(QString::fromStdString(sql))) fail(query.lastError());
    return query;
}

QSqlQuery SqliteEngine::direct(const std::string& sql) {
    QSqlQuery query = prepared(sql);
    execute(query, {});
    return query;
}

std::unique_ptr<StoreHold> SqliteEngine::hold(const std::string& name) {
    return hold_by(FileLock::try_own(file_.parent_path() / (name + ".lock")));
}

void SqliteEngine::execute(QSqlQuery& statement, const QVariantList& values) {
    for (int i = 0; i < values.size(); ++i) statement.bindValue(i, values[i]);
    if (!statement.exec()) fail(statement.lastError());
}

void SqliteEngine::fail(const QSqlError& error) const {
    const int code = error.nativeErrorCode().toInt() & 0xff;
    const std::string store = file_.string();
    const auto says = [&](const char* sentence) {
        return store_error(fmt::format(fmt::runtime(sentence), store), std::to_string(code));
    };
    const char* full = "The store {} cannot grow because the disk is full; free some space and try again.";
    switch (code) {
        case 5:
        case 6:
            throw says("The store {} is locked by another program; wait until it is done or close it, then try again.");
        case 8: throw says("The store {} is read-only; change the rights of its folder or choose another store.");
        case 13: throw says(full);
        case 11:
        case 26: throw says("{} is damaged or no store of Optrel; restore it from a copy or choose another folder.");
        default:
            // Failures to create or extend auxiliary files have other error codes.
            if (is_full(file_.parent_path())) throw says(full);
            throw store_error(fmt::format("The store {} refused to work ({}); check its disk and try again.", store,
                                          error.databaseText().toStdString()),
                              std::to_string(code));
    }
}

void SqliteEngine::roll_back() noexcept {
    try {
        run("ROLLBACK");
    } catch (const Error&) {
        // SQLite rolls back unfinished transactions by itself.
    }
}

int SqliteEngine::schema() {
    QSqlQuery q = run("PRAGMA user_version");
    q.next();
    return q.value(0).toInt();
}

void SqliteEngine::copy_before_migration() {
    fs::path copy = file_.parent_path() / fmt::format("store-before-schema-{}.sqlite", migrations().size());
    for (int n = 2; fs::exists(copy); ++n)
        copy = file_.parent_path() / fmt::format("store-before-schema-{}-{}.sqlite", migrations().size(), n);
    // A separate connection, because the one with the lock cannot copy within its transaction.
    SqliteEngine reader(file_, connection_ + "-copy");
    try {
        reader.run("VACUUM INTO ?", {text(copy.string())});
    } catch (const Error&) {
        std::error_code ignored;
        fs::remove(copy, ignored);  // deletes an incomplete copy
        throw;
    }
}

void SqliteEngine::migrate(Access access) {
    const int newest = static_cast<int>(migrations().size());
    const auto refuse_newer = [&](int have) {
        if (have > newest)
            throw store_error(fmt::format(
                "The store {} has schema {}, written by a newer Optrel; this version knows schema {}: update Optrel.",
                file_.string(), have, newest));
    };
    int have = schema();
    refuse_newer(have);
    if (have == newest) return;
    // Now exclusive: another process may have migrated meanwhile, or is waiting.
    Transaction transaction(*this);
    have = schema();
    refuse_newer(have);
    if (have == newest) return;
    if (have > 0 && access != Access::upgrade) throw OutdatedStore(file_.string(), have, newest);
    if (have > 0) copy_before_migration();  // schema 0 contains nothing
    for (; have < newest; ++have)
        for (const char* statement : migrations()[have]) run(statement);
    run(fmt::format("PRAGMA user_version = {}", newest));
    // Rows from before the introduction of seals are covered by the seal of this row.
    if (run("SELECT 1 FROM history WHERE seal = ''").next())
        record({"", "", "store", "history", "seal what is there", "", ""});
    transaction.commit();
}

}  // namespace optrel::sqlite
