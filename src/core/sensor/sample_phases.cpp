// SPDX-License-Identifier: GPL-3.0-or-later
#include "sensor/sample_phases.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>
#include <vector>

#include "base/median.h"
#include "base/parallel.h"

namespace optrel {
namespace {

/// Calls body(samples, medians, put) for each site; put(row, column, value) sets the result.
template <class Value>
cv::Mat1f by_site(const cv::Mat1f& samples, int period, const Value& value) {
    cv::Mat1f out(samples.size(), 0.f);
    parallel_for(period * period, [&](int site) {
        const int row0 = site / period, column0 = site % period;
        const cv::Size size((samples.cols - column0 + period - 1) / period,
                            (samples.rows - row0 + period - 1) / period);
        if (size.width < 3 || size.height < 3) return;
        cv::Mat1f plane(size), calm;
        for (int y = 0; y < size.height; ++y)
            for (int x = 0; x < size.width; ++x) plane(y, x) = samples(period * y + row0, period * x + column0);
        cv::medianBlur(plane, calm, 3);
        for (int y = 0; y < size.height; ++y)
            for (int x = 0; x < size.width; ++x)
                out(period * y + row0, period * x + column0) = value(plane(y, x), calm(y, x));
    });
    return out;
}

}  // namespace

cv::Mat1f less_local_median(const cv::Mat1f& samples, int period) {
    return by_site(samples, period, [](float here, float around) { return here - around; });
}

cv::Mat1f relative_to_local_median(const cv::Mat1f& samples, int period, float least) {
    return by_site(samples, period,
                   [least](float here, float around) { return around > least ? here / around - 1 : 0.f; });
}

double robust_sigma(const cv::Mat1f& values) {
    std::vector<double> sizes;
    const int step = std::max(1, static_cast<int>(std::sqrt(static_cast<double>(values.total()) / 60000)));
    for (int y = 0; y < values.rows; y += step)
        for (int x = 0; x < values.cols; x += step) sizes.push_back(std::abs(values(y, x)));
    return 1.4826 * median(sizes);
}

}  // namespace optrel
