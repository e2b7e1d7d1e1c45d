// SPDX-License-Identifier: GPL-3.0-or-later
// Large memory pages for whole pictures. With small pages, the first access to a hundred megabytes takes as long as the
// computation that fills them.
#pragma once

#include <cstddef>

namespace optrel {

/// Asks the system to use large pages for memory that is about to be filled for the first time. The system may ignore
/// it.
void prefer_large_pages(void* memory, std::size_t bytes);

}  // namespace optrel
