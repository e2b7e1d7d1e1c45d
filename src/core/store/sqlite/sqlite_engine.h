// SPDX-License-Identifier: GPL-3.0-or-later
// A store in a folder: one SQLite file by Qt SQL, and the rollouts as folders beside it.
#pragma once

#include <QSqlDatabase>
#include <QSqlError>
#include <QTemporaryDir>
#include <filesystem>
#include <memory>
#include <thread>

#include "base/times.h"
#include "rollout/folder_rollout_store.h"
#include "store/access.h"
#include "store/engine.h"

namespace optrel::sqlite {

/// Whether a folder holds a store.
bool is_store(const std::filesystem::path& folder);

/// Whether a file system of this magic number (statfs(2)) is reached over a network: SQLite's locks and its shared
/// memory do not hold there.
bool is_network_file_system(long long magic);

class SqliteEngine final : public Engine {
public:
    /// With Access::read a store that cannot be written is read as it is: nothing is made beside it. Older schemas are
    /// migrated, after a copy of the file was taken beside it. Throws Error(input) when there is none (and it is not to
    /// be begun), when a store would be begun among frames, and Error(store) when it cannot be opened, lies on a
    /// network file system or was written by a newer version.
    SqliteEngine(const std::filesystem::path& folder, Access access);
    ~SqliteEngine() override;

    bool writable() const override { return writable_; }
    QSqlQuery prepared(const std::string& sql) override;
    QSqlQuery streamed(const std::string& sql) override { return prepared(sql); }
    QSqlQuery direct(const std::string& sql) override;
    void execute(QSqlQuery& statement, const QVariantList& values) override;
    RolloutStore& rollouts() override { return shelf_; }
    /// One program writes at a time.
    void lock_part(const std::string&) override {}
    void read_one_instant() override {}
    void number_after(const std::string&) override {}
    std::unique_ptr<StoreHold> hold(const std::string& name) override;
    bool listen(QObject&, std::function<void()>) override { return false; }
    std::string login_in_sql() const override { return "''"; }
    std::string seconds_in_sql() const override { return "CAST(strftime('%s', 'now') AS INTEGER)"; }
    std::string skipping_locked(const std::string&) const override { return {}; }
    bool seals_history() const override { return false; }
    StorePeople* people() override { return nullptr; }
    std::string now() override { return utc_now(); }

protected:
    void begin() override { run(writable_ ? "BEGIN IMMEDIATE" : "BEGIN"); }
    void commit() override { run("COMMIT"); }
    void roll_back() noexcept override;

private:
    /// A second connection to the file of a store that is open, to read it as it stands.
    SqliteEngine(const std::filesystem::path& file, const std::string& connection);
    void open(const QString& name, const QString& options);
    void open_for_writing(Access access);
    void open_frozen();
    void close();
    int schema();
    void migrate(Access access);
    void copy_before_migration();
    /// A statement from a thread that the connection does not belong to is a fault of the program; Qt SQL would only
    /// sometimes notice.
    void check_thread() const;
    [[noreturn]] void fail(const QSqlError& error) const;

    std::string connection_;
    std::filesystem::path file_;
    FolderRolloutStore shelf_;
    std::thread::id owner_ = std::this_thread::get_id();
    bool writable_ = true;
    std::unique_ptr<QTemporaryDir> copy_;
    QSqlDatabase db_;
};

}  // namespace optrel::sqlite
