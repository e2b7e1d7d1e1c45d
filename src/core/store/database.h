// A thin layer over Qt SQL: statements that throw, and transactions that roll back by themselves.
#pragma once

#include <QSqlDatabase>
#include <QSqlError>
#include <QSqlQuery>
#include <QTemporaryDir>
#include <QVariant>
#include <filesystem>
#include <memory>
#include <string>
#include <thread>

#include "store/store.h"

namespace optrel {

class Store::Database {
public:
    /// With Access::read a store that cannot be written is read as it is: nothing is made beside it.
    Database(const std::filesystem::path& file, Access access);
    ~Database();
    bool writable() const { return writable_; }

    /// Runs a statement with positional values. Throws Error(store).
    QSqlQuery run(const std::string& sql, const QVariantList& values = {});

    /// A statement to be run many times.
    QSqlQuery prepared(const std::string& sql);
    void execute(QSqlQuery& statement, const QVariantList& values);

    class Transaction {
    public:
        explicit Transaction(Database& db);
        ~Transaction();
        void commit();

    private:
        Database& db_;
        bool open_ = true;
    };

private:
    void open(const QString& name, const QString& options);
    void open_for_writing();
    void open_frozen();
    int schema();
    void migrate();
    /// A statement from a thread that the connection does not belong to is a fault of the program; Qt SQL would only
    /// sometimes notice.
    void check_thread() const;
    [[noreturn]] void fail(const QSqlError& error) const;

    std::string connection_;
    std::filesystem::path file_;
    std::thread::id owner_ = std::this_thread::get_id();
    bool writable_ = true;
    std::unique_ptr<QTemporaryDir> copy_;
    QSqlDatabase db_;
};

inline QVariant text(const std::string& s) { return QString::fromStdString(s); }
inline std::string text(const QVariant& v) { return v.toString().toStdString(); }

}  // namespace optrel
