// SPDX-License-Identifier: GPL-3.0-or-later
// A monotonic clock that goes on while the process is stopped or the machine is suspended. Leases need it.
#pragma once

#include <chrono>
#include <ctime>

namespace optrel {

/// Since the machine was started; the same for all programs on it, and never set back (CLOCK_BOOTTIME).
inline std::chrono::milliseconds boot_now() {
    timespec t{};
    ::clock_gettime(CLOCK_BOOTTIME, &t);
    return std::chrono::seconds(t.tv_sec) +
           std::chrono::duration_cast<std::chrono::milliseconds>(std::chrono::nanoseconds(t.tv_nsec));
}

}  // namespace optrel
