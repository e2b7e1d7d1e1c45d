// SPDX-License-Identifier: GPL-3.0-or-later
// Configuration of the heap for several threads.
#pragma once

namespace optrel {

/// Limits the number of heap arenas to the number of cores (glibc's default is eight per core), so that threads reuse
/// each other's freed memory. Saves about 100 MB in a window with 200,000 frames at no measurable cost in time. Must be
/// called first in main().
void share_heap();

}  // namespace optrel
