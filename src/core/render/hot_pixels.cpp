// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/hot_pixels.h"

#include <algorithm>
#include <array>
#include <cstdint>
#include <opencv2/imgproc.hpp>
#include <utility>
#include <vector>

#include "render/noise_reduction.h"
#include "render/strips.h"

namespace optrel {
namespace {

/// The samples at one of the four colour sites of the mosaic.
cv::Mat1f phase(const RawPicture& raw, int row0, int column0) {
    const double black = raw.black.at(row0, column0);
    cv::Mat1f out((raw.counts.rows - row0 + 1) / 2, (raw.counts.cols - column0 + 1) / 2);
    for_strips(out.rows, [&](int first, int end) {
        for (int row = first; row < end; ++row) {
            const std::uint16_t* in = raw.counts.ptr<std::uint16_t>(2 * row + row0);
            float* to = out.ptr<float>(row);
            for (int i = 0; i < out.cols; ++i) to[i] = static_cast<float>(in[2 * i + column0] - black);
        }
    });
    return out;
}

cv::Mat1w without_hot_pixels_of_two(const RawPicture& raw) {
    cv::Mat1w out = raw.counts.clone();
    for (int row0 = 0; row0 < 2; ++row0)
        for (int column0 = 0; column0 < 2; ++column0) {
            const cv::Mat1f plane = phase(raw, row0, column0);
            if (plane.rows < 3 || plane.cols < 3) continue;
            cv::Mat1f calm;
            cv::medianBlur(plane, calm, 3);  // keeps hot samples out of the noise estimate
            const NoiseModel noise = measure_noise(plane, calm);
            for_strips(plane.rows, [&](int first, int end) {
                for (int row = std::max(1, first); row < std::min(plane.rows - 1, end); ++row)
                    for (int i = 1; i + 1 < plane.cols; ++i) {
                        const float here = plane(row, i);
                        std::array<float, 8> around{plane(row - 1, i - 1), plane(row - 1, i),    plane(row - 1, i + 1),
                                                    plane(row, i - 1),     plane(row, i + 1),    plane(row + 1, i - 1),
                                                    plane(row + 1, i),     plane(row + 1, i + 1)};
                        const float largest = *std::max_element(around.begin(), around.end());
                        if (here - largest <= 0.5f * here || here - largest <= 6 * noise.sigma(std::max(0.f, largest)))
                            continue;
                        std::nth_element(around.begin(), around.begin() + 4, around.end());
                        out(2 * row + row0, 2 * i + column0) =
                            cv::saturate_cast<std::uint16_t>(around[4] + raw.black.at(row0, column0));
                    }
            });
        }
    return out;
}

constexpr int reach = 3;

/// Samples of the same colour within `reach`, by the site of the pattern: offsets (down, across).
struct SameColour {
    std::vector<std::pair<int, int>> at[SitePattern<int>::largest][SitePattern<int>::largest];

    explicit SameColour(const SitePattern<int>& filter) {
        constexpr int period = SitePattern<int>::largest;
        for (int row = 0; row < period; ++row)
            for (int column = 0; column < period; ++column) {
                std::vector<std::pair<int, int>>& list = at[row][column];
                for (int y = -reach; y <= reach; ++y)
                    for (int x = -reach; x <= reach; ++x)
                        if ((x || y) && filter.at(row + period + y, column + period + x) == filter.at(row, column))
                            list.emplace_back(y, x);
                // The nearest eight are enough.
                std::stable_sort(list.begin(), list.end(), [](const auto& a, const auto& b) {
                    return a.first * a.first + a.second * a.second < b.first * b.first + b.second * b.second;
                });
                if (list.size() > 8) list.resize(8);
            }
    }
    const std::vector<std::pair<int, int>>& of(int row, int column) const {
        return at[row % SitePattern<int>::largest][column % SitePattern<int>::largest];
    }
};

/// For any filter: the neighbours of a sample are the nearest ones of its colour.
cv::Mat1w without_hot_pixels_by_colour(const RawPicture& raw) {
    const SameColour same(raw.filter);
    cv::Mat1f signal(raw.counts.size()), around(raw.counts.size()), largest(raw.counts.size());
    const auto light = [&](int row, int column) {
        return static_cast<float>(raw.counts(row, column) - raw.black.at(row, column));
    };
    for_strips(signal.rows, [&](int first, int end) {
        std::vector<float> near;
        for (int row = first; row < end; ++row)
            for (int i = 0; i < signal.cols; ++i) {
                near.clear();
                for (const auto& [y, x] : same.of(row, i))
                    if (row + y >= 0 && row + y < signal.rows && i + x >= 0 && i + x < signal.cols)
                        near.push_back(light(row + y, i + x));
                signal(row, i) = light(row, i);
                if (near.empty()) near.push_back(signal(row, i));
                largest(row, i) = *std::max_element(near.begin(), near.end());
                const auto middle = near.begin() + static_cast<std::ptrdiff_t>(near.size() / 2);
                std::nth_element(near.begin(), middle, near.end());
                around(row, i) = *middle;
            }
    });
    const NoiseModel noise = noise_of_difference(cv::Mat1f(signal - around), around);
    cv::Mat1w out = raw.counts.clone();
    for_strips(out.rows, [&](int first, int end) {
        for (int row = first; row < end; ++row)
            for (int i = 0; i < out.cols; ++i) {
                const float here = signal(row, i), high = largest(row, i);
                if (here - high <= 0.5f * here || here - high <= 6 * noise.sigma(std::max(0.f, high))) continue;
                out(row, i) = cv::saturate_cast<std::uint16_t>(around(row, i) + raw.black.at(row, i));
            }
    });
    return out;
}

}  // namespace

cv::Mat1w without_hot_pixels(const RawPicture& raw) {
    return raw.period() == 2 ? without_hot_pixels_of_two(raw) : without_hot_pixels_by_colour(raw);
}

}  // namespace optrel
