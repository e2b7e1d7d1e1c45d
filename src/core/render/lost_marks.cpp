// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/lost_marks.h"

#include <algorithm>

#include "frames/colour_space.h"
#include "render/strips.h"

namespace optrel {

LostCells lost_cells(const RawPicture& raw, int cell) {
    const cv::Size size(raw.counts.cols / cell, raw.counts.rows / cell);
    LostCells out{Planes(size), cv::Mat1f(size)};
    const bool all_three = raw.layout == SampleLayout::interpolated, grey = raw.layout == SampleLayout::monochrome;
    const auto white = static_cast<int>(raw.white);
    for_strips(size.height, [&](int first, int end) {
        for (int row = first; row < end; ++row)
            for (int i = 0; i < size.width; ++i) {
                bool clipped[3] = {};
                int black = 0, count = 0;
                for (int y = row * cell; y < (row + 1) * cell; ++y)
                    for (int x = i * cell; x < (i + 1) * cell; ++x) {
                        if (all_three) {
                            const cv::Vec3w& v = raw.interpolated(y, x);
                            for (int c = 0; c < 3; ++c) {
                                clipped[c] |= v[c] >= white;
                                black += v[c] <= raw.interpolated_black[static_cast<std::size_t>(c)];
                            }
                            count += 3;
                            continue;
                        }
                        const int v = raw.counts(y, x);
                        clipped[raw.filter.at(y, x)] |= v >= white;
                        black += v <= raw.black.at(y, x);
                        ++count;
                    }
                if (grey) clipped[0] = clipped[2] = clipped[1];
                for (int c = 0; c < 3; ++c) out.clipped.channel[static_cast<std::size_t>(c)](row, i) = clipped[c];
                out.black(row, i) = static_cast<float>(black) / static_cast<float>(std::max(1, count));
            }
    });
    return out;
}

cv::Mat1b lost_in_development(const Planes& developed) {
    const cv::Matx33f m = srgb_to(ColourSpace::romm);
    cv::Mat1b out(developed.size());
    for_strips(out.rows, [&](int first, int end) {
        for (int row = first; row < end; ++row)
            for (int i = 0; i < out.cols; ++i) {
                const cv::Vec3f v = m * cv::Vec3f(developed.channel[0](row, i), developed.channel[1](row, i),
                                                  developed.channel[2](row, i));
                const float most = std::max({v[0], v[1], v[2]});
                // Grey at 1 is white, not lost; the margin is half a step of 8 bits.
                out(row, i) = static_cast<uchar>((most > 1.002f ? lost_bright : 0) | (most <= 0 ? lost_dark : 0));
            }
    });
    return out;
}

std::array<double, 7> lost_percent(const cv::Mat1b& marks, const cv::Mat1b& empty) {
    std::array<double, 7> out{};
    double all = 0;
    for (int row = 0; row < marks.rows; ++row)
        for (int i = 0; i < marks.cols; ++i) {
            if (empty(row, i)) continue;
            ++all;
            for (std::size_t bit = 0; bit < out.size(); ++bit) out[bit] += (marks(row, i) >> bit) & 1;
        }
    for (double& share : out) share = all > 0 ? 100 * share / all : 0;
    return out;
}

}  // namespace optrel
