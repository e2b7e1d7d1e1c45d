// SPDX-License-Identifier: GPL-3.0-or-later
// Memory for whole pictures: the first touch of a hundred megabytes in small pages takes as long as computing what is
// put there.
#pragma once

#include <cstddef>

namespace optrel {

/// Asks the system for large pages where memory that was not touched yet is going to be filled; a wish, no more.
void prefer_large_pages(void* memory, std::size_t bytes);

}  // namespace optrel
