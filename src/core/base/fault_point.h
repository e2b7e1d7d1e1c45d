// SPDX-License-Identifier: GPL-3.0-or-later
// Fault injection: tests make disk operations fail, or kill the program there.
#pragma once

#include <functional>

namespace optrel {

/// Called before each operation that changes the disk ("write", "flush", "rename", "remove", "make folder"). A result
/// other than 0 makes the operation fail with that errno. Null in production; tests set it before they start threads.
extern std::function<int(const char* step)> fault_point;

}  // namespace optrel
