// SPDX-License-Identifier: GPL-3.0-or-later
#include "inspect/look_image.h"

#include <algorithm>
#include <cmath>

#include "frames/orientation.h"

namespace optrel {

QImage image_of(const PreparedFrame::Look& look, int orientation) {
    const cv::Mat3w rgb = as_held(look.rgb, orientation);
    const cv::Mat1b empty = as_held(look.empty, orientation);
    QImage out(rgb.cols, rgb.rows, QImage::Format_ARGB32_Premultiplied);
    for (int row = 0; row < rgb.rows; ++row) {
        const cv::Vec3w* in = rgb.ptr<cv::Vec3w>(row);
        const uchar* none = empty.ptr<uchar>(row);
        auto* to = reinterpret_cast<QRgb*>(out.scanLine(row));
        for (int i = 0; i < rgb.cols; ++i)
            to[i] = none[i] ? qRgba(0, 0, 0, 0) : qRgb(in[i][0] >> 8, in[i][1] >> 8, in[i][2] >> 8);
    }
    return out;
}

Sampling on_sensor(const QRectF& place, double step, const cv::Size& sensor, int orientation) {
    const cv::Point2d a = place_on_sensor({place.left(), place.top()}, sensor, orientation),
                      b = place_on_sensor({place.right(), place.bottom()}, sensor, orientation);
    const double width = std::abs(a.x - b.x), height = std::abs(a.y - b.y);
    return {std::min(a.x, b.x), std::min(a.y, b.y), step,
            cv::Size(std::max(1, static_cast<int>(std::lround(width / step))),
                     std::max(1, static_cast<int>(std::lround(height / step))))};
}

}  // namespace optrel
