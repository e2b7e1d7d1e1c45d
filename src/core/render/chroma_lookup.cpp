// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/chroma_lookup.h"

#include <algorithm>

namespace optrel {

ChromaLookup::ChromaLookup(const std::function<cv::Vec3f(const cv::Vec3f&)>& convert) {
    entries_.reserve((steps + 1) * (steps + 1));
    for (int j = 0; j <= steps; ++j)
        for (int i = 0; i <= steps; ++i) {
            const float x = static_cast<float>(i) / steps, y = static_cast<float>(j) / steps;
            const cv::Vec3f out = convert({x, y, std::max(0.f, 1 - x - y)});
            entries_.push_back({{out[0], out[1], out[2], 0}});
        }
}

void ChromaLookup::apply(const cv::Matx33f& m, float* red, float* green, float* blue, int count) const {
    // In blocks, and in two passes over each: the compiler vectorises the first over pixels, and the second over the
    // four numbers of an entry.
    constexpr int block = 64;
    float sums[block], along[block], down[block];
    int entries[block];
    for (int begin = 0; begin < count; begin += block) {
        const int n = std::min(block, count - begin);
        float *r = red + begin, *g = green + begin, *b = blue + begin;
        for (int i = 0; i < n; ++i) {
            const float x = std::max(0.f, m(0, 0) * r[i] + m(0, 1) * g[i] + m(0, 2) * b[i]);
            const float y = std::max(0.f, m(1, 0) * r[i] + m(1, 1) * g[i] + m(1, 2) * b[i]);
            const float z = std::max(0.f, m(2, 0) * r[i] + m(2, 1) * g[i] + m(2, 2) * b[i]);
            const float sum = x + y + z;
            // The least sum keeps black from being divided by zero; the last cell is one before the last entry.
            const float scale = steps / std::max(sum, 1e-30f);
            const float column = x * scale, row = y * scale;
            const int first = static_cast<int>(std::min(column, steps - 1.f));
            const int above = static_cast<int>(std::min(row, steps - 1.f));
            sums[i] = sum;
            along[i] = column - static_cast<float>(first);
            down[i] = row - static_cast<float>(above);
            entries[i] = above * (steps + 1) + first;
        }
        for (int i = 0; i < n; ++i) {
            const Entry* at = entries_.data() + entries[i];
            const Entry* below = at + steps + 1;
            const float u = along[i], lower = down[i] * sums[i], upper = sums[i] - lower;
            const float a = upper - u * upper, c = u * upper, d = lower - u * lower, e = u * lower;
            Entry out;
            for (int k = 0; k < 4; ++k)
                out.rgb[k] = a * at[0].rgb[k] + c * at[1].rgb[k] + d * below[0].rgb[k] + e * below[1].rgb[k];
            r[i] = out.rgb[0];
            g[i] = out.rgb[1];
            b[i] = out.rgb[2];
        }
    }
}

}  // namespace optrel
