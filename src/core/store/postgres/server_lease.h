// SPDX-License-Identifier: GPL-3.0-or-later
// What one program of a studio has for a while, as a row of the table `leases`.
//
// The row says who has it, and until when by the clock of the server. Its program renews it; another one takes it over
// once it is over, or as soon as it finds, on the same machine, that its program has ended. Only roles that may work in
// the store can make such a row, and the server itself bounds how long it lasts (schema.cpp).
#pragma once

#include <atomic>
#include <chrono>
#include <optional>
#include <string>
#include <vector>

#include "rollout/shelf.h"

namespace optrel::postgres {

class PostgresEngine;

class ServerLease {
public:
    struct Other {
        std::string who, marks;
    };
    /// Those of a name that others have. Those that are over, or whose programs have ended, are removed first. Within a
    /// transaction that has locked the part "leases".
    static std::vector<Other> of_others(PostgresEngine& engine, const std::string& name);
    /// The leases of names that begin with `prefix` and are not over: the rest of the name, and who has it.
    static std::vector<std::pair<std::string, std::string>> at_work(PostgresEngine& engine, const std::string& prefix);
    /// Makes a new one, within the same transaction; it is ours once that is committed. `engine` must stay.
    ServerLease(PostgresEngine& engine, const std::string& name, const std::string& who, const std::string& marks);

    /// Asks the store, and renews it when a quarter of it is over. By the thread that `engine` belongs to.
    RolloutShelf::Claim::Standing ask();
    /// May be called by any thread.
    bool valid() const;
    /// Gives it back; what cannot be given back runs out.
    void give_back() noexcept;

private:
    PostgresEngine& engine_;
    const std::chrono::milliseconds length_;
    long long id_ = 0;
    std::atomic<long long> until_ms_{0};  ///< by boot_now()
};

}  // namespace optrel::postgres
