// SPDX-License-Identifier: GPL-3.0-or-later
// The median, which is robust against outliers.
#pragma once

#include <algorithm>
#include <vector>

namespace optrel {

/// Median; for an even number of values, the upper of the two middle ones. 0 for an empty sample.
inline double median(std::vector<double> v) {
    if (v.empty()) return 0;
    std::nth_element(v.begin(), v.begin() + v.size() / 2, v.end());
    return v[v.size() / 2];
}

}  // namespace optrel
