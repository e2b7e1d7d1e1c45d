// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/gently.h"

#include <sys/resource.h>
#include <sys/syscall.h>
#include <unistd.h>

#include <exception>
#include <thread>

namespace optrel {
namespace {

/// Lowers the priority of this thread only (Linux). Failures are ignored. The work needs its own thread, because an
/// unprivileged process cannot raise its priority again.
void step_back() {
    constexpr int nicer = 10, best_effort_last = (2 << 13) | 7, this_thread_only = 1;  // ioprio_set(2)
    const auto self = static_cast<id_t>(::syscall(SYS_gettid));
    ::setpriority(PRIO_PROCESS, self, nicer);
    ::syscall(SYS_ioprio_set, this_thread_only, 0, best_effort_last);
}

}  // namespace

void gently(const std::function<void()>& work) {
    std::exception_ptr failure;
    std::thread thread([&] {
        step_back();
        try {
            work();
        } catch (...) {
            failure = std::current_exception();
        }
    });
    thread.join();
    if (failure) std::rethrow_exception(failure);
}

}  // namespace optrel
