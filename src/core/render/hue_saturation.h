// SPDX-License-Identifier: GPL-3.0-or-later
// Hue, saturation and value of linear RGB, as hue tables have them (DNG specification 1.6).
#pragma once

#include <algorithm>
#include <cmath>
#include <opencv2/core.hpp>

namespace optrel {

/// Hue in sixths of the circle, from 0 to below 6; saturation; value. Colours without light have hue and saturation 0.
template <class T>
cv::Vec<T, 3> hsv_of(const cv::Vec<T, 3>& c) {
    const T high = std::max({c[0], c[1], c[2]}), low = std::min({c[0], c[1], c[2]}), span = high - low;
    if (span <= 0 || high <= 0) return {0, 0, high};
    T hue;
    if (c[0] == high) {
        hue = (c[1] - c[2]) / span;
        if (hue < 0) hue += 6;
    } else if (c[1] == high) {
        hue = 2 + (c[2] - c[0]) / span;
    } else {
        hue = 4 + (c[0] - c[1]) / span;
    }
    return {hue, span / high, high};
}

/// The inverse of hsv_of(); the hue wraps around.
template <class T>
cv::Vec<T, 3> rgb_of(T hue, T saturation, T value) {
    hue -= 6 * std::floor(hue / 6);
    const int sixth = std::min(5, static_cast<int>(hue));
    const T part = hue - static_cast<T>(sixth);
    const T low = value * (1 - saturation), falling = value * (1 - saturation * part),
            rising = value * (1 - saturation * (1 - part));
    switch (sixth) {
        case 0: return {value, rising, low};
        case 1: return {falling, value, low};
        case 2: return {low, value, rising};
        case 3: return {low, falling, value};
        case 4: return {rising, low, value};
        default: return {value, low, falling};
    }
}

}  // namespace optrel
