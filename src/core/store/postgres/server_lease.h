// SPDX-License-Identifier: GPL-3.0-or-later
// A lease as a row of the table `leases`.
//
// The row holds the owner and the expiry by the server's clock. The owner renews it; another process takes it over when
// it has expired, or when the owner's process on the same machine has ended. Only roles that may write can create
// leases, and the server limits their duration (schema.cpp).
#pragma once

#include <atomic>
#include <chrono>
#include <optional>
#include <string>
#include <vector>

#include "rollout/rollout_store.h"

namespace optrel {
class Engine;
}

namespace optrel::postgres {

class ServerLease {
public:
    struct Other {
        std::string who, marks;
    };
    /// Leases of a name that others hold. Expired leases and leases of ended processes are removed first. Call it
    /// inside a transaction that has locked the part "leases".
    static std::vector<Other> of_others(Engine& engine, const std::string& name);
    /// Valid leases whose names begin with `prefix`: the rest of the name, and the owner.
    static std::vector<std::pair<std::string, std::string>> at_work(Engine& engine, const std::string& prefix);
    /// Creates a lease in the current transaction; it is valid once that commits. `engine` must outlive it.
    ServerLease(Engine& engine, const std::string& name, const std::string& who, const std::string& marks);

    /// Asks the store, and renews the lease when a quarter of it has passed. Call it on the thread that owns `engine`.
    RolloutStore::Lease::Standing ask();
    /// Thread-safe.
    bool valid() const;
    /// Releases the lease. When that fails, the lease expires by itself.
    void give_back() noexcept;

private:
    Engine& engine_;
    const std::chrono::milliseconds length_;
    long long id_ = 0;
    std::atomic<long long> until_ms_{0};  ///< by boot_now()
};

}  // namespace optrel::postgres
