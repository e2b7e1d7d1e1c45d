// SPDX-License-Identifier: GPL-3.0-or-later
// Processes a picture in strips of rows on all cores. Only for source files, because TBB's names collide with
// Qt's.
#pragma once

#include <algorithm>

#include "base/parallel.h"

namespace optrel {

/// Calls body(first_row, end_row) for strips of rows on all cores.
template <class Body>
void for_strips(int rows, const Body& body) {
    constexpr int strip = 64;
    parallel_for((rows + strip - 1) / strip, [&](int i) { body(i * strip, std::min(rows, (i + 1) * strip)); });
}

}  // namespace optrel
