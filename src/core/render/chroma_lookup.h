// SPDX-License-Identifier: GPL-3.0-or-later
// A table in place of a conversion of colours that does not depend on brightness: f(k c) = k f(c).
#pragma once

#include <functional>
#include <opencv2/core.hpp>
#include <vector>

namespace optrel {

class ChromaLookup {
public:
    /// `convert` maps linear RGB to linear RGB. Negative components are treated as zero.
    explicit ChromaLookup(const std::function<cv::Vec3f(const cv::Vec3f&)>& convert);

    /// Interpolates between chromaticities that lie 1/256 apart.
    cv::Vec3f operator()(cv::Vec3f rgb) const {
        apply(cv::Matx33f::eye(), &rgb[0], &rgb[1], &rgb[2], 1);
        return rgb;
    }
    /// The same for `count` colours in three planes, after multiplication by `before`. In place.
    void apply(const cv::Matx33f& before, float* red, float* green, float* blue, int count) const;

private:
    static constexpr int steps = 256;
    /// Four numbers, so that the processor interpolates all of them at once; the last is zero.
    struct alignas(16) Entry {
        float rgb[4] = {};
    };
    std::vector<Entry> entries_;  ///< over green (rows) and red, as shares of the sum
};

}  // namespace optrel
