// SPDX-License-Identifier: GPL-3.0-or-later
#include "inspect/look_image.h"

#include <algorithm>
#include <cmath>

#include "frames/orientation.h"
#include "render/lost_marks.h"

namespace optrel {
namespace {

/// The pattern of marks at a pixel: a dark stroke or dot with a light one beside it, seen on any picture.
QRgb pattern_at(int bits, int row, int column) {
    constexpr int pitch = 8;
    const int down = row % pitch, across = column % pitch;
    int phase = pitch;  // 0, 1: dark; 2, 3: light
    if (bits & (lost_red | lost_green | lost_blue))
        phase = (across + down) % pitch;
    else if (bits & lost_bright)
        phase = across;
    else if (bits & (lost_black | lost_dark))
        phase = (across - down + pitch) % pitch;
    else if (bits & lost_on_screen && down < 2)
        phase = across;
    if (phase > 3) return qRgba(0, 0, 0, 0);
    return phase < 2 ? qRgb(20, 20, 20) : qRgb(245, 245, 245);
}

}  // namespace

QImage image_of(const PreparedFrame::Look& look, int orientation) {
    const cv::Mat3b rgb = dithered(as_held(look.rgb, orientation));
    const cv::Mat1b empty = as_held(look.empty, orientation);
    QImage out(rgb.cols, rgb.rows, QImage::Format_ARGB32_Premultiplied);
    for (int row = 0; row < rgb.rows; ++row) {
        const cv::Vec3b* in = rgb.ptr<cv::Vec3b>(row);
        const uchar* none = empty.ptr<uchar>(row);
        auto* to = reinterpret_cast<QRgb*>(out.scanLine(row));
        for (int i = 0; i < rgb.cols; ++i) to[i] = none[i] ? qRgba(0, 0, 0, 0) : qRgb(in[i][0], in[i][1], in[i][2]);
    }
    return out;
}

QImage marks_of(const PreparedFrame::Look& look, int orientation) {
    if (look.marks.empty() || cv::countNonZero(look.marks) == 0) return {};
    const cv::Mat1b marks = as_held(look.marks, orientation);
    QImage out(marks.cols, marks.rows, QImage::Format_ARGB32_Premultiplied);
    for (int row = 0; row < marks.rows; ++row) {
        auto* to = reinterpret_cast<QRgb*>(out.scanLine(row));
        for (int i = 0; i < marks.cols; ++i) to[i] = pattern_at(marks(row, i), row, i);
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
