// SPDX-License-Identifier: GPL-3.0-or-later
// Where tests keep their stores: in a folder, or on a PostgreSQL server of the tests' own.
#pragma once

#include <optional>
#include <string>

#include "support/support.h"

namespace optrel::test {

/// Starts the tests' server when it does not run. Throws when it cannot be had: such tests are never left out.
const std::string& test_server();

/// Runs a statement on a database of the tests' server, as somebody else would.
void on_test_server(const std::string& database, const std::string& sql);
/// The first value of its first row; empty when there is none.
std::string asked_of_test_server(const std::string& database, const std::string& sql);

/// A place for one store, that is gone at the end.
class StorePlace {
public:
    /// "folder" or "server".
    explicit StorePlace(const std::string& engine);
    ~StorePlace();
    StorePlace(const StorePlace&) = delete;
    StorePlace& operator=(const StorePlace&) = delete;
    const std::string& address() const { return address_; }
    /// Of one on the server; empty otherwise.
    const std::string& database() const { return database_; }

private:
    std::optional<TemporaryFolder> folder_;
    std::string database_, address_;
};

}  // namespace optrel::test

/// The engines that a store may be on; a test with this runs once on each.
#define EACH_ENGINE GENERATE(std::string("folder"), std::string("server"))
