// SPDX-License-Identifier: GPL-3.0-or-later
// A monotonic clock that continues while the process is stopped or the machine is suspended. Leases depend on it.
#pragma once

#include <chrono>
#include <ctime>

namespace optrel {

/// Time since the machine was started (CLOCK_BOOTTIME); the same for all processes, and never set back.
inline std::chrono::milliseconds boot_now() {
    timespec t{};
    ::clock_gettime(CLOCK_BOOTTIME, &t);
    return std::chrono::seconds(t.tv_sec) +
           std::chrono::duration_cast<std::chrono::milliseconds>(std::chrono::nanoseconds(t.tv_nsec));
}

}  // namespace optrel
