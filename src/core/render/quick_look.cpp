// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/quick_look.h"

#include <algorithm>
#include <opencv2/imgproc.hpp>

#include "frames/colour_space.h"
#include "render/colour.h"
#include "render/planes.h"
#include "render/sample_layouts.h"
#include "render/strips.h"

namespace optrel {

cv::Mat3b quick_look(const RawPicture& raw) {
    const int cell = raw.layout == SampleLayout::six_by_six ? 6 : 2;
    const Planes cells = light_in_cells(raw, raw.counts, white_balance_multipliers(raw.as_shot_neutral), cell);
    const int height = cells.size().height, width = cells.size().width;
    cv::Mat3f small;
    cv::merge(cells.channel.data(), 3, small);
    std::vector<float> levels;
    for (int row = 0; row < height; row += 8)
        for (int i = 0; i < width; i += 8) levels.push_back(small(row, i)[1]);
    const auto at = levels.begin() + static_cast<std::ptrdiff_t>(0.99 * (levels.size() - 1));
    std::nth_element(levels.begin(), at, levels.end());
    const float gain = 0.9f / std::max(1e-3f, *at);
    cv::Mat3b out(height, width);
    static const LightEncoder encode(ColourSpace::srgb);
    for_strips(height, [&](int first, int end) {
        for (int row = first; row < end; ++row)
            for (int i = 0; i < width; ++i)
                for (int c = 0; c < 3; ++c)
                    out(row, i)[c] = static_cast<std::uint8_t>(encode(gain * small(row, i)[c]) >> 8);
    });
    return out;
}

cv::Mat3b quick_look(const OpenedFrame& frame) {
    if (sniff_kind(frame) == FrameKind::raw) return quick_look(read_raw(frame));
    const cv::Mat3f linear = read_rendered(frame);
    cv::Mat3b out(linear.size());
    static const LightEncoder encode(ColourSpace::srgb);
    for (int row = 0; row < out.rows; ++row)
        for (int i = 0; i < out.cols; ++i)
            for (int c = 0; c < 3; ++c) out(row, i)[c] = static_cast<std::uint8_t>(encode(linear(row, i)[c]) >> 8);
    while (std::max(out.cols, out.rows) > 2000) cv::resize(out, out, {}, 0.5, 0.5, cv::INTER_AREA);
    return out;
}

}  // namespace optrel
