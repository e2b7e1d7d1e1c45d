// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/hot_pixels.h"

#include <algorithm>
#include <array>
#include <opencv2/imgproc.hpp>

#include "render/noise_reduction.h"
#include "render/strips.h"

namespace optrel {
namespace {

/// The samples at one of the four colour sites of the mosaic.
cv::Mat1f phase(const RawPicture& raw, int row0, int column0) {
    const double black = raw.black[row0][column0];
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

}  // namespace

cv::Mat1w without_hot_pixels(const RawPicture& raw) {
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
                            cv::saturate_cast<std::uint16_t>(around[4] + raw.black[row0][column0]);
                    }
            });
        }
    return out;
}

}  // namespace optrel
