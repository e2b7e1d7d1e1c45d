// SPDX-License-Identifier: GPL-3.0-or-later
// Several calls on a store as one.
#pragma once

#include <string>

namespace optrel {

class Engine;

/// All statements while it lives are one: taken back unless commit() is called. One inside another joins it; when the
/// inner one is not committed, the outer one cannot be.
class Transaction {
public:
    explicit Transaction(Engine& engine);
    /// One that changes a part by what it reads of it first: others that do wait until it is done.
    Transaction(Engine& engine, const std::string& part);
    /// One that reads: all of it as at one instant, whoever writes meanwhile.
    enum Manner { one_instant };
    Transaction(Engine& engine, Manner manner);
    ~Transaction();
    Transaction(const Transaction&) = delete;
    Transaction& operator=(const Transaction&) = delete;
    /// Throws Error(store) when the engine refuses, or when an inner transaction was given up.
    void commit();

private:
    Engine& engine_;
    bool open_ = true;
};

}  // namespace optrel
