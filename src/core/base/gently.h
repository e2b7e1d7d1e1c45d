// SPDX-License-Identifier: GPL-3.0-or-later
// Long work that yields to people at work on the same machine.
#pragma once

#include <functional>

namespace optrel {

/// Runs something on a thread of its own that the system lets wait for others, for the processor as for the disk, and
/// waits for it. What it throws is thrown here.
void gently(const std::function<void()>& work);

}  // namespace optrel
