// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/picture_sketch.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdlib>

#include "base/parallel.h"

namespace optrel {

std::string sketch_of(const cv::Mat& picture) {
    constexpr int parts = 8;
    double white = 1;
    if (picture.depth() == CV_8U) white = 255;
    if (picture.depth() == CV_16U) white = 65535;
    std::string out;
    if (picture.empty()) return out;
    std::array<cv::Scalar, parts * parts> means;
    parallel_for(parts * parts, [&](int k) {
        const int i = k % parts, j = k / parts;
        const int left = picture.cols * i / parts, top = picture.rows * j / parts;
        const int right = std::max(left + 1, picture.cols * (i + 1) / parts),
                  bottom = std::max(top + 1, picture.rows * (j + 1) / parts);
        const cv::Rect part =
            cv::Rect(left, top, right - left, bottom - top) & cv::Rect(0, 0, picture.cols, picture.rows);
        if (!part.empty()) means[static_cast<std::size_t>(k)] = cv::mean(picture(part));
    });
    for (int c = 0; c < picture.channels(); ++c)
        for (const cv::Scalar& mean : means)
            out += fmt::format("{:02x}", std::clamp(static_cast<int>(std::lround(mean[c] / white * 255)), 0, 255));
    return out;
}

int sketch_difference(const std::string& a, const std::string& b) {
    if (a.size() != b.size() || a.empty() || a.size() % 2) return 255;
    int largest = 0;
    for (std::size_t i = 0; i < a.size(); i += 2) {
        const auto at = [&](const std::string& s) { return std::strtol(s.substr(i, 2).c_str(), nullptr, 16); };
        largest = std::max(largest, static_cast<int>(std::abs(at(a) - at(b))));
    }
    return largest;
}

}  // namespace optrel
