// SPDX-License-Identifier: GPL-3.0-or-later
// Background work with low priority.
#pragma once

#include <functional>

namespace optrel {

/// Runs a function on a thread with low CPU and disk priority, and waits for it. Exceptions are rethrown here.
void gently(const std::function<void()>& work);

}  // namespace optrel
