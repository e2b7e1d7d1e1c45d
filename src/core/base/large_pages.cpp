// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/large_pages.h"

#include <sys/mman.h>

#include <cstdint>

namespace optrel {

void prefer_large_pages(void* memory, std::size_t bytes) {
    constexpr std::uintptr_t page = 4096;
    const auto begin = reinterpret_cast<std::uintptr_t>(memory), first = (begin + page - 1) / page * page,
               end = (begin + bytes) / page * page;
    if (end > first) (void)madvise(reinterpret_cast<void*>(first), end - first, MADV_HUGEPAGE);
}

}  // namespace optrel
