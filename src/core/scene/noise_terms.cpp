// SPDX-License-Identifier: GPL-3.0-or-later
#include "scene/noise_terms.h"

#include <algorithm>
#include <cmath>

namespace optrel {

namespace {

constexpr int side = 8;
constexpr int levels = 24;

struct Patch {
    float light, unevenness, variance;
};

/// Mean of the squared second differences, whose variance is 36 times that of a sample.
Patch patch_at(const cv::Mat1f& v, int row, int column) {
    Patch out{};
    double sum = 0, quarter[2][2] = {}, squares = 0;
    for (int j = 0; j < side; ++j)
        for (int i = 0; i < side; ++i) {
            const float x = v(row + j, column + i);
            sum += x;
            quarter[2 * j / side][2 * i / side] += x;
            if (j == 0 || i == 0 || j == side - 1 || i == side - 1) continue;
            const auto at = [&](int down, int across) { return v(row + j + down, column + i + across); };
            const double second = at(-1, -1) - 2 * at(-1, 0) + at(-1, 1) - 2 * at(0, -1) + 4 * x - 2 * at(0, 1) +
                                  at(1, -1) - 2 * at(1, 0) + at(1, 1);
            squares += second * second;
        }
    const auto [low, high] = std::minmax({quarter[0][0], quarter[0][1], quarter[1][0], quarter[1][1]});
    constexpr int inner = (side - 2) * (side - 2);
    out.light = static_cast<float>(sum / (side * side));
    out.unevenness = static_cast<float>((high - low) * 4 / (side * side));
    out.variance = static_cast<float>(squares / inner / 36);
    return out;
}

/// The most even fifth of the patches at each level of light, as one point: mean light, mean variance, count.
struct Level {
    double light, variance, count;
};
std::vector<Level> levels_of(std::vector<Patch>& patches) {
    std::sort(patches.begin(), patches.end(), [](const Patch& a, const Patch& b) { return a.light < b.light; });
    std::vector<Level> out;
    for (int level = 0; level < levels; ++level) {
        const std::size_t from = patches.size() * level / levels, to = patches.size() * (level + 1) / levels;
        if (to - from < 10) continue;
        const auto first = patches.begin() + static_cast<std::ptrdiff_t>(from),
                   last = patches.begin() + static_cast<std::ptrdiff_t>(to);
        const auto even = first + std::max<std::ptrdiff_t>(5, (last - first) / 5);
        std::nth_element(first, even, last, [](const Patch& a, const Patch& b) { return a.unevenness < b.unevenness; });
        Level mean{0, 0, static_cast<double>(even - first)};
        for (auto p = first; p != even; ++p) {
            mean.light += p->light / mean.count;
            mean.variance += p->variance / mean.count;
        }
        out.push_back(mean);
    }
    return out;
}

/// A line whose terms are not negative, fitted with relative errors.
NoiseTerms line_through(const std::vector<Level>& points) {
    NoiseTerms out;
    double w = 0, x = 0, y = 0, xx = 0, xy = 0;
    for (const Level& p : points) {
        const double weight = p.count / std::max(1e-24, p.variance * p.variance);
        w += weight;
        x += weight * p.light;
        y += weight * p.variance;
        xx += weight * p.light * p.light;
        xy += weight * p.light * p.variance;
        out.patches += static_cast<int>(p.count);
    }
    if (points.empty() || !(w > 0)) return out;
    const double spread = w * xx - x * x;
    out.slope = spread > 1e-9 * w * xx ? (w * xy - x * y) / spread : 0;
    if (out.slope < 0) out.slope = 0;
    out.offset = (y - out.slope * x) / w;
    if (out.offset < 0) {
        out.offset = 0;
        out.slope = xx > 0 ? xy / xx : 0;
    }
    return out;
}

}  // namespace

std::array<NoiseTerms, 3> noise_terms(const std::vector<SamplePlane>& planes) {
    std::array<std::vector<Patch>, 3> patches;
    for (const SamplePlane& plane : planes)
        for (int row = 0; row + side <= plane.values.rows; row += side)
            for (int column = 0; column + side <= plane.values.cols; column += side) {
                const Patch p = patch_at(plane.values, row, column);
                // Clipped samples have no noise, so bright patches are left out.
                if (p.light > 0.002f && p.light < 0.9f) patches[static_cast<int>(plane.channel)].push_back(p);
            }
    std::array<NoiseTerms, 3> out;
    for (int c = 0; c < 3; ++c) out[c] = line_through(levels_of(patches[c]));
    return out;
}

}  // namespace optrel
