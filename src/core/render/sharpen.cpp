// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/sharpen.h"

#include <algorithm>
#include <opencv2/imgproc.hpp>

#include "render/strips.h"
#include "render/tone.h"

namespace optrel {

void sharpen(Planes& planes, double amount_percent, double radius_px, double threshold_percent) {
    if (amount_percent <= 0) return;
    cv::Mat1f grey(planes.size()), blurred(planes.size());
    for_strips(grey.rows, [&](int first, int end) {
        for (int row = first; row < end; ++row) {
            const float *r = planes.channel[0].ptr<float>(row), *g = planes.channel[1].ptr<float>(row),
                        *b = planes.channel[2].ptr<float>(row);
            float* to = grey.ptr<float>(row);
            // Values above white are invisible, so they must not cause halos.
            for (int i = 0; i < grey.cols; ++i)
                to[i] = std::clamp(luma[0] * r[i] + luma[1] * g[i] + luma[2] * b[i], 0.f, 1.f);
        }
    });
    const float amount = static_cast<float>(amount_percent / 100);
    const float threshold = static_cast<float>(threshold_percent / 100), weak = threshold * threshold;
    for_strips(grey.rows, [&](int first, int end) {
        cv::Mat to = blurred.rowRange(first, end);
        cv::GaussianBlur(grey.rowRange(first, end), to, {0, 0}, radius_px, radius_px, cv::BORDER_REFLECT_101);
    });
    for_strips(grey.rows, [&](int first, int end) {
        std::vector<float> gain(grey.cols);
        for (int row = first; row < end; ++row) {
            const float *sharp = grey.ptr<float>(row), *soft = blurred.ptr<float>(row);
            for (int i = 0; i < grey.cols; ++i) {
                const float d = sharp[i] - soft[i], q = d * d;
                gain[i] = weak > 0 ? amount * d * q / (q + weak) : amount * d;
            }
            for (cv::Mat1f& plane : planes.channel) {
                float* p = plane.ptr<float>(row);
                for (int i = 0; i < grey.cols; ++i) p[i] += gain[i];
            }
        }
    });
}

}  // namespace optrel
