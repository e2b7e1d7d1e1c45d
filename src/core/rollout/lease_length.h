// SPDX-License-Identifier: GPL-3.0-or-later
// How long what a program has for a while lasts when it is not renewed.
#pragma once

#include <chrono>
#include <cstdlib>

namespace optrel {

/// 15 s, or what the variable OPTREL_LEASE_MS says, which has to be the same for all programs on a store.
inline std::chrono::milliseconds lease_length() {
    const char* said = std::getenv("OPTREL_LEASE_MS");
    const long ms = said ? std::strtol(said, nullptr, 10) : 0;
    return std::chrono::milliseconds(ms >= 100 && ms <= 60000 ? ms : 15000);
}

}  // namespace optrel
