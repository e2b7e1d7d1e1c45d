// A thin layer over Qt SQL: statements that throw, and transactions that roll back by themselves.
#pragma once

#include <QSqlDatabase>
#include <QSqlError>
#include <QSqlQuery>
#include <QVariant>
#include <filesystem>
#include <string>

#include "store/store.h"

namespace optrel {

class Store::Database {
public:
    explicit Database(const std::filesystem::path& file);
    ~Database();

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
    void migrate();
    [[noreturn]] void fail(const QSqlError& error) const;

    std::string connection_;
    std::filesystem::path file_;
    QSqlDatabase db_;
};

inline QVariant text(const std::string& s) { return QString::fromStdString(s); }
inline std::string text(const QVariant& v) { return v.toString().toStdString(); }

}  // namespace optrel
