// SPDX-License-Identifier: GPL-3.0-or-later
// Where tests make a step towards the disk fail, or end the program: pulling the plug at every counted instant.
#pragma once

#include <functional>

namespace optrel {

/// Called before each step that changes the disk ("write", "flush", "rename", "remove", "make folder"); a code other
/// than 0 (as in errno) makes the step fail with it. Null in the program; set by tests, before threads are started.
extern std::function<int(const char* step)> fault_point;

}  // namespace optrel
