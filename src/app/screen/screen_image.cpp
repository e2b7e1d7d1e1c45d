// SPDX-License-Identifier: GPL-3.0-or-later
#include "screen/screen_image.h"

namespace optrel {

QImage screen_image(const cv::Mat3b& srgb, const ScreenColours& colours) {
    cv::Mat3b shown = srgb;
    if (!colours.settings().profile.empty()) {
        cv::Mat3w wide;
        srgb.convertTo(wide, CV_16U, 257);
        shown = dithered(colours.encoded(wide));
    }
    QImage out(shown.cols, shown.rows, QImage::Format_RGB32);
    for (int row = 0; row < shown.rows; ++row) {
        auto* to = reinterpret_cast<QRgb*>(out.scanLine(row));
        for (int i = 0; i < shown.cols; ++i) {
            const cv::Vec3b& p = shown(row, i);
            to[i] = qRgb(p[0], p[1], p[2]);
        }
    }
    return out;
}

QImage screen_image(const QImage& srgb, const ScreenColours& colours) {
    if (srgb.isNull() || colours.settings().profile.empty()) return srgb;
    QImage rgb = srgb.convertToFormat(QImage::Format_RGB888);
    return screen_image(cv::Mat3b(rgb.height(), rgb.width(), reinterpret_cast<cv::Vec3b*>(rgb.bits()),
                                  static_cast<std::size_t>(rgb.bytesPerLine())),
                        colours);
}

}  // namespace optrel
