// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/orientation.h"

namespace optrel {

cv::Mat as_held(const cv::Mat& picture, int orientation) {
    cv::Mat out;
    switch (orientation) {
        case 2: cv::flip(picture, out, 1); break;
        case 3: cv::rotate(picture, out, cv::ROTATE_180); break;
        case 4: cv::flip(picture, out, 0); break;
        case 5: cv::transpose(picture, out); break;
        case 6: cv::rotate(picture, out, cv::ROTATE_90_CLOCKWISE); break;
        case 7:
            cv::transpose(picture, out);
            cv::flip(out, out, -1);
            break;
        case 8: cv::rotate(picture, out, cv::ROTATE_90_COUNTERCLOCKWISE); break;
        default: return picture;
    }
    return out;
}

cv::Point2d place_as_held(const cv::Point2d& p, const cv::Size& s, int orientation) {
    const double w = s.width, h = s.height;
    switch (orientation) {
        case 2: return {w - p.x, p.y};
        case 3: return {w - p.x, h - p.y};
        case 4: return {p.x, h - p.y};
        case 5: return {p.y, p.x};
        case 6: return {h - p.y, p.x};
        case 7: return {h - p.y, w - p.x};
        case 8: return {p.y, w - p.x};
        default: return p;
    }
}

cv::Point2d place_on_sensor(const cv::Point2d& place, const cv::Size& sensor, int orientation) {
    const cv::Size held = size_as_held(sensor, orientation);
    // Quarter turns are inverse to each other; all others are their own inverse.
    if (orientation == 6 || orientation == 8) return place_as_held(place, held, 14 - orientation);
    return place_as_held(place, held, orientation);
}

cv::Matx22d axes_as_held(int orientation) {
    const cv::Point2d origin = place_as_held({0, 0}, {1, 1}, orientation),
                      right = place_as_held({1, 0}, {1, 1}, orientation) - origin,
                      down = place_as_held({0, 1}, {1, 1}, orientation) - origin;
    return {right.x, down.x, right.y, down.y};
}

}  // namespace optrel
