// SPDX-License-Identifier: GPL-3.0-or-later
// Duration of a lease.
#pragma once

#include <chrono>
#include <cstdlib>

namespace optrel {

/// A lease expires after 15 s without renewal, or after the time in the environment variable OPTREL_LEASE_MS. All
/// programs that use the same store must have the same value.
inline std::chrono::milliseconds lease_length() {
    const char* said = std::getenv("OPTREL_LEASE_MS");
    const long ms = said ? std::strtol(said, nullptr, 10) : 0;
    return std::chrono::milliseconds(ms >= 100 && ms <= 60000 ? ms : 15000);
}

}  // namespace optrel
