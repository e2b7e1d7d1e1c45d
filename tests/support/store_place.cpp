// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/store_place.h"

#include <fmt/format.h>
#include <sys/wait.h>
#include <unistd.h>

#include <QSqlDatabase>
#include <QSqlError>
#include <QSqlQuery>
#include <QVariant>
#include <atomic>
#include <cstdio>
#include <stdexcept>

namespace optrel::test {
namespace {

constexpr const char* keeper = "keeper";

/// A connection to a database of the tests' server.
class Connection {
public:
    explicit Connection(const std::string& database) {
        test_server();
        static std::atomic<int> counter{0};
        name_ = QString("tests-%1").arg(counter++);
        db_ = QSqlDatabase::addDatabase("QPSQL", name_);
        db_.setHostName(OPTREL_TEST_SERVER);
        db_.setUserName(keeper);
        db_.setDatabaseName(QString::fromStdString(database));
        if (!db_.open()) throw std::runtime_error(db_.lastError().text().toStdString());
    }
    ~Connection() {
        db_.close();
        db_ = QSqlDatabase();
        QSqlDatabase::removeDatabase(name_);
    }
    QSqlQuery run(const std::string& sql) {
        QSqlQuery q(db_);
        if (!q.exec(QString::fromStdString(sql))) throw std::runtime_error(q.lastError().text().toStdString());
        return q;
    }

private:
    QString name_;
    QSqlDatabase db_;
};

}  // namespace

const std::string& test_server() {
    static const std::string address = [] {
        // What it keeps need not outlive a power cut.
        const std::string command =
            fmt::format("STUDIO_SETTINGS='fsync = off' STUDIO_KEEPER={} {}/scripts/studio-server start {}", keeper,
                        OPTREL_SOURCE, OPTREL_TEST_SERVER);
        std::string out;
        FILE* pipe = popen(command.c_str(), "r");
        char buffer[256];
        while (pipe && std::fgets(buffer, sizeof buffer, pipe)) out += buffer;
        if (!pipe || pclose(pipe) != 0 || out.empty())
            throw std::runtime_error("The tests' PostgreSQL server cannot be started: " + command);
        return out.substr(0, out.find('\n'));
    }();
    return address;
}

void on_test_server(const std::string& database, const std::string& sql) { Connection(database).run(sql); }

std::string asked_of_test_server(const std::string& database, const std::string& sql) {
    Connection connection(database);
    QSqlQuery q = connection.run(sql);
    return q.next() ? q.value(0).toString().toStdString() : "";
}

StorePlace::StorePlace(const std::string& engine) {
    if (engine == "folder") {
        folder_.emplace();
        address_ = *folder_ / "s";
        return;
    }
    static std::atomic<int> counter{0};
    database_ = fmt::format("t{}_{}", getpid(), counter++);
    address_ = test_server() + "/" + database_;
}

StorePlace::~StorePlace() {
    if (database_.empty()) return;
    try {
        on_test_server("postgres", fmt::format("DROP DATABASE IF EXISTS {} WITH (FORCE)", database_));
    } catch (const std::exception& error) {
        std::fprintf(stderr, "%s\n", error.what());
    }
}

}  // namespace optrel::test
