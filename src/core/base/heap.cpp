// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/heap.h"

#include <malloc.h>

#include <algorithm>
#include <thread>

namespace optrel {

void share_heap() { ::mallopt(M_ARENA_MAX, static_cast<int>(std::max(2u, std::thread::hardware_concurrency()))); }

}  // namespace optrel
