// SPDX-License-Identifier: GPL-3.0-or-later
// Small drawn boards for tests of detection: exact geometry, even sampling, no rig.
#pragma once

#include <algorithm>
#include <cmath>
#include <functional>
#include <opencv2/core.hpp>

#include "base/angle.h"
#include "frames/picture.h"

namespace optrel::test {

struct DrawnBoard {
    int width = 900, height = 600;
    int nx = 10, ny = 7;  ///< squares
    double blur = 0.8, noise = 0;
    double dark = 0.05, bright = 0.8;
    std::function<Vec2(Vec2)> to_board;  ///< picture px to squares, origin at the board's corner
    std::function<double(Vec2)> light = [](Vec2) { return 1.0; };
    std::function<bool(Vec2, double&)> clutter = [](Vec2, double&) { return false; };

    /// A picture with three equal channels, 120 samples a pixel over its blur: a rank-1 lattice (R2 sequence) shifted
    /// at random for each pixel, so that no direction of an edge is sampled coarsely. Fewer where all are alike.
    MeasuringPicture draw() const {
        MeasuringPicture out;
        out.width = width;
        out.height = height;
        cv::Mat1f v(height, width);
        cv::RNG random(17);
        constexpr int n = 120, few = 32;
        for (int row = 0; row < height; ++row)
            for (int i = 0; i < width; ++i) {
                double sum = 0, weight = 0, least = INFINITY, most = -INFINITY;
                double x = random.uniform(0.0, 1.0), y = random.uniform(0.0, 1.0);
                for (int k = 0; k < n && (k != few || most > least); ++k) {
                    x += 0.7548776662466927;
                    y += 0.5698402909980532;
                    if (x >= 1) x -= 1;
                    if (y >= 1) y -= 1;
                    // Over +-3 sigma of a Gaussian that stands for lens and pixel.
                    const double du = 6 * blur * (x - 0.5), dv = 6 * blur * (y - 0.5);
                    const double w = std::exp(-(du * du + dv * dv) / (2 * blur * blur));
                    const double seen = value(Vec2(i + 0.5 + du, row + 0.5 + dv));
                    least = std::min(least, seen);
                    most = std::max(most, seen);
                    sum += w * seen;
                    weight += w;
                }
                v(row, i) = static_cast<float>(sum / weight + (noise > 0 ? random.gaussian(noise) : 0));
            }
        for (int c = 0; c < 3; ++c) out.planes.push_back({static_cast<Channel>(c), v.clone(), 0.5, 0.5, 1});
        return out;
    }

private:
    double value(const Vec2& p) const {
        double out = 0;
        if (clutter(p, out)) return out;
        const Vec2 b = to_board(p);
        if (b.x() < -0.6 || b.y() < -0.6 || b.x() > nx + 0.6 || b.y() > ny + 0.6) return 0.35 * light(p);
        if (b.x() < 0 || b.y() < 0 || b.x() >= nx || b.y() >= ny) return bright * light(p);
        return ((static_cast<int>(b.x()) + static_cast<int>(b.y())) % 2 ? bright : dark) * light(p);
    }
};

/// A plane homography of the picture: rotation, scale, place and perspective.
inline std::function<Vec2(Vec2)> placed(double degrees, double square_px, Vec2 origin,
                                        Vec2 perspective = Vec2::Zero()) {
    const double a = degrees * degree, c = std::cos(a), s = std::sin(a);
    return [=](Vec2 p) {
        const Vec2 q = p - origin;
        const double w = 1 + perspective.dot(q);
        const Vec2 r(c * q.x() + s * q.y(), -s * q.x() + c * q.y());
        return Vec2(r / (square_px * w));
    };
}

}  // namespace optrel::test
