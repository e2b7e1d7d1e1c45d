// SPDX-License-Identifier: GPL-3.0-or-later
#include "patches/neutral_area.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <vector>

#include "base/error.h"
#include "base/median.h"

namespace optrel {
namespace {

constexpr int block = 16, least_side = 32;
constexpr double least_level = 0.01;

/// Logarithms of red and blue over green in one block.
struct Balance {
    double red, blue;
};

std::vector<Balance> balances(const RawPicture& raw, const cv::Rect& area) {
    std::vector<Balance> out;
    double level = 0;
    int blocks = 0;
    for (int top = area.y; top + block <= area.y + area.height; top += block)
        for (int left = area.x; left + block <= area.x + area.width; left += block) {
            double sum[3] = {}, n[3] = {};
            for (int row = top; row < top + block; ++row)
                for (int column = left; column < left + block; ++column) {
                    const double count = raw.counts(row, column);
                    if (count >= raw.white)
                        throw input_error(fmt::format(
                            "The area holds clipped samples, at row {}, column {}; choose one that is not overexposed.",
                            row, column));
                    const int c = raw.filter.at(row, column);
                    const double black = raw.black.at(row, column);
                    sum[c] += (count - black) / (raw.white - black);
                    n[c] += 1;
                }
            for (int c = 0; c < 3; ++c) sum[c] /= std::max(1.0, n[c]);
            level += sum[1];
            ++blocks;
            if (sum[0] > 0 && sum[1] > 0 && sum[2] > 0)
                out.push_back({std::log(sum[0] / sum[1]), std::log(sum[2] / sum[1])});
        }
    if (out.empty() || level < least_level * blocks)
        throw input_error("The area is too dark to tell what is neutral; choose a lighter one, or expose more.");
    return out;
}

/// Median and its one sigma, from the scatter about it.
ColourFigure middle_of(const std::vector<Balance>& all, double Balance::*of) {
    std::vector<double> values, away;
    for (const Balance& b : all) values.push_back(b.*of);
    const double middle = median(values);
    for (const double v : values) away.push_back(std::abs(v - middle));
    // The median absolute deviation of a normal scatter is 0.6745 sigma; a median is 1.2533 times less certain than a
    // mean.
    const double n = static_cast<double>(values.size());
    return {middle, 1.2533 * median(away) / 0.6745 / std::sqrt(n)};
}

}  // namespace

NeutralArea neutral_of_area(const RawPicture& raw, const cv::Rect& area, const CameraMatrices& matrices) {
    if (!raw.has_colours())
        throw input_error("This sensor has no colours, so nothing can be neutral to it; use a frame of another body.");
    if (raw.layout == SampleLayout::interpolated)
        throw input_error("The frame's colours are interpolated already; use the camera's own file.");
    if (area.x < 0 || area.y < 0 || area.width < least_side || area.height < least_side ||
        area.x + area.width > raw.counts.cols || area.y + area.height > raw.counts.rows)
        throw input_error(
            fmt::format("The area ({}, {}, {} x {} px) must lie inside the frame of {} x {} px and measure at least {} "
                        "px each way.",
                        area.x, area.y, area.width, area.height, raw.counts.cols, raw.counts.rows, least_side));
    const std::vector<Balance> all = balances(raw, area);
    const ColourFigure red = middle_of(all, &Balance::red), blue = middle_of(all, &Balance::blue);
    NeutralArea out;
    out.neutral = {std::exp(red.value), 1, std::exp(blue.value)};
    out.neutral_sigma = {red.sigma, 0, blue.sigma};
    out.offsets = neutral_offsets(matrices, raw.as_shot_neutral, out.neutral, out.neutral_sigma);
    const std::array<double, 3> reached = neutral_of(matrices, out.offsets.light.kelvin, out.offsets.light.tint);
    for (const std::size_t c : {0u, 2u})
        out.missed = std::max(out.missed, std::abs(reached[c] / reached[1] / out.neutral[c] - 1));
    return out;
}

NeutralArea neutral_of_area(const RawPicture& raw, const cv::Rect& area) {
    return neutral_of_area(raw, area, own_matrices(raw));
}

}  // namespace optrel
