// SPDX-License-Identifier: GPL-3.0-or-later
// A database transaction.
#pragma once

#include <string>

namespace optrel {

class Engine;

/// All statements during its lifetime form one transaction, which is rolled back unless commit() is called. Nested
/// transactions join the outer one; when a nested one is not committed, the outer one cannot be committed either.
class Transaction {
public:
    explicit Transaction(Engine& engine);
    /// A transaction that changes `part` depending on what it reads: the part is locked against other such
    /// transactions.
    Transaction(Engine& engine, const std::string& part);
    /// A read transaction that sees one snapshot, whatever others write meanwhile.
    enum Manner { one_instant };
    Transaction(Engine& engine, Manner manner);
    ~Transaction();
    Transaction(const Transaction&) = delete;
    Transaction& operator=(const Transaction&) = delete;
    /// Throws Error(store) when the engine refuses, or when a nested transaction was not committed.
    void commit();

private:
    Engine& engine_;
    bool open_ = true;
};

}  // namespace optrel
