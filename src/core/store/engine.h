// SPDX-License-Identifier: GPL-3.0-or-later
// What the parts of a store need of a database engine. Their own statements are standard SQL; what is particular to an
// engine (how it is opened, its schema, its errors) stands in that engine's folder.
//
// An engine belongs to the thread that opened it and refuses any other.
#pragma once

#include <QSqlQuery>
#include <QVariant>
#include <memory>
#include <string>
#include <vector>

#include "store/transaction.h"

namespace optrel {

class RolloutShelf;

class Engine {
public:
    virtual ~Engine() = default;
    /// False when it was opened to be read where nothing can be written.
    virtual bool writable() const = 0;
    /// A statement to be run many times. Throws Error(store).
    virtual QSqlQuery prepared(const std::string& sql) = 0;
    virtual void execute(QSqlQuery& statement, const QVariantList& values) = 0;
    /// Where this store keeps its rollouts.
    virtual RolloutShelf& rollouts() = 0;

    /// Runs a statement with positional values. Throws Error(store).
    QSqlQuery run(const std::string& sql, const QVariantList& values = {});
    /// Counts that a part was written.
    void stamp(const std::string& part);

protected:
    virtual void begin() = 0;
    virtual void commit() = 0;
    virtual void roll_back() noexcept = 0;

private:
    friend class Transaction;
    int depth_ = 0;
    bool doomed_ = false;
};

/// "INSERT ... ON CONFLICT (key) DO UPDATE SET ..." for a row of these columns.
std::string upsert(const std::string& table, const std::vector<std::string>& columns, const std::string& key);
/// The same, but a row that is there stays as it is.
std::string insert_missing(const std::string& table, const std::vector<std::string>& columns);

inline QVariant text(const std::string& s) { return QString::fromStdString(s); }
inline std::string text(const QVariant& v) { return v.toString().toStdString(); }

}  // namespace optrel
