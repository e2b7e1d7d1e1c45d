// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/sharpen.h"

#include <algorithm>
#include <opencv2/imgproc.hpp>

#include "render/strips.h"
#include "render/tone.h"

namespace optrel {

SharpeningDetail sharpening_detail(const Planes& planes, double radius_px) {
    SharpeningDetail out;
    out.grey.create(planes.size());
    out.blurred.create(planes.size());
    for_strips(out.grey.rows, [&](int first, int end) {
        for (int row = first; row < end; ++row) {
            const float *r = planes.channel[0].ptr<float>(row), *g = planes.channel[1].ptr<float>(row),
                        *b = planes.channel[2].ptr<float>(row);
            float* to = out.grey.ptr<float>(row);
            // Values above white are invisible, so they must not cause halos.
            for (int i = 0; i < out.grey.cols; ++i)
                to[i] = std::clamp(luma[0] * r[i] + luma[1] * g[i] + luma[2] * b[i], 0.f, 1.f);
        }
    });
    for_strips(out.grey.rows, [&](int first, int end) {
        cv::Mat to = out.blurred.rowRange(first, end);
        cv::GaussianBlur(out.grey.rowRange(first, end), to, {0, 0}, radius_px, radius_px, cv::BORDER_REFLECT_101);
    });
    return out;
}

void sharpen(Planes& planes, const Sharpening& s) {
    if (s.amount_percent <= 0) return;
    const SharpeningDetail detail = sharpening_detail(planes, s.radius_px);
    const float amount = static_cast<float>(s.amount_percent / 100);
    const float threshold = static_cast<float>(s.threshold_percent / 100), least = threshold * threshold;
    const float last = static_cast<float>(s.threshold_at.size()) - 1;
    for_strips(detail.grey.rows, [&](int first, int end) {
        std::vector<float> gain(static_cast<std::size_t>(detail.grey.cols));
        for (int row = first; row < end; ++row) {
            const float *sharp = detail.grey.ptr<float>(row), *soft = detail.blurred.ptr<float>(row);
            for (int i = 0; i < detail.grey.cols; ++i) {
                const float d = sharp[i] - soft[i], q = d * d;
                float weak = least;
                if (last >= 0) {
                    const float t = s.threshold_at[static_cast<std::size_t>(soft[i] * last + 0.5f)];
                    weak = std::max(weak, t * t);
                }
                gain[static_cast<std::size_t>(i)] = weak > 0 ? amount * d * q / (q + weak) : amount * d;
            }
            for (cv::Mat1f& plane : planes.channel) {
                float* p = plane.ptr<float>(row);
                for (int i = 0; i < detail.grey.cols; ++i) p[i] += gain[static_cast<std::size_t>(i)];
            }
        }
    });
}

}  // namespace optrel
