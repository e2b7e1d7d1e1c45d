// SPDX-License-Identifier: GPL-3.0-or-later
// The middle value of a sample, which wrong values do not move.
#pragma once

#include <algorithm>
#include <vector>

namespace optrel {

/// The upper of the two middle values where the number is even; 0 of nothing.
inline double median(std::vector<double> v) {
    if (v.empty()) return 0;
    std::nth_element(v.begin(), v.begin() + v.size() / 2, v.end());
    return v[v.size() / 2];
}

}  // namespace optrel
