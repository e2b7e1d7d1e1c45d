// SPDX-License-Identifier: GPL-3.0-or-later
#include "baselines/fewest_knots.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace optrel {

std::vector<std::pair<double, double>> fewest_knots(const std::vector<std::pair<double, double>>& points,
                                                    double relative, double absolute) {
    const std::size_t n = points.size();
    if (n < 2) return points;
    const auto tolerance = [&](std::size_t i) {
        return std::max(absolute, relative * std::abs(points[i].second)) + 1e-9;
    };
    bool constant = true;
    for (std::size_t i = 0; i < n; ++i)
        constant = constant && std::abs(points[i].second - points[0].second) <= tolerance(i);
    if (constant) return {points[0]};
    const auto straight = [&](std::size_t from, std::size_t to) {
        const double left = std::log2(points[from].first), right = std::log2(points[to].first);
        for (std::size_t i = from + 1; i < to; ++i) {
            const double t = (std::log2(points[i].first) - left) / (right - left);
            const double on_ramp = points[from].second + t * (points[to].second - points[from].second);
            if (std::abs(on_ramp - points[i].second) > tolerance(i)) return false;
        }
        return true;
    };
    // The fewest segments to each point, and the knot before it.
    std::vector<int> segments(n, std::numeric_limits<int>::max());
    std::vector<std::size_t> before(n, 0);
    segments[0] = 0;
    for (std::size_t to = 1; to < n; ++to)
        for (std::size_t from = 0; from < to; ++from)
            if (segments[from] + 1 < segments[to] && straight(from, to)) {
                segments[to] = segments[from] + 1;
                before[to] = from;
            }
    std::vector<std::pair<double, double>> out;
    for (std::size_t i = n - 1; i > 0; i = before[i]) out.push_back(points[i]);
    out.push_back(points[0]);
    std::reverse(out.begin(), out.end());
    return out;
}

}  // namespace optrel
