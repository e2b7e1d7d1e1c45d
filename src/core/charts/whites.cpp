// SPDX-License-Identifier: GPL-3.0-or-later
#include "charts/whites.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <optional>

namespace optrel {
namespace {

/// A square of the chart, by its four corners in order.
struct Square {
    std::array<const ChartCorner*, 4> corner;
    Vec2 middle = Vec2::Zero();
    double grey = 0;            ///< level between dark and bright, from the corner fits
    Vec2 reach = Vec2::Zero();  ///< half of the distance of the corners from the middle

    explicit Square(const std::array<const ChartCorner*, 4>& corners) : corner(corners) {
        for (const ChartCorner* c : corner) {
            middle += c->green().position / 4;
            grey += c->green().base / 4;
        }
        for (const ChartCorner* c : corner) reach = reach.cwiseMax(Vec2((c->green().position - middle).cwiseAbs() / 2));
    }

    /// True inside the square that is shrunk to half its size about its middle.
    bool inner(const Vec2& p) const {
        for (int e = 0; e < 4; ++e) {
            const Vec2 a = 0.5 * (corner[e]->green().position + middle);
            const Vec2 b = 0.5 * (corner[(e + 1) % 4]->green().position + middle);
            const Vec2 along = b - a, to = p - a, in = middle - a;
            const double side = along.x() * to.y() - along.y() * to.x(), own = along.x() * in.y() - along.y() * in.x();
            if (side * own < 0) return false;
        }
        return true;
    }

    /// The mean of a plane's samples in the inner square; empty when they are few or many are clipped.
    std::optional<double> mean(const SamplePlane& plane) const {
        const Vec2 from = (middle - reach - Vec2(plane.u0, plane.v0)) / plane.step;
        const Vec2 to = (middle + reach - Vec2(plane.u0, plane.v0)) / plane.step;
        const int left = std::max(0, static_cast<int>(std::ceil(from.x())));
        const int right = std::min(plane.values.cols - 1, static_cast<int>(std::floor(to.x())));
        const int top = std::max(0, static_cast<int>(std::ceil(from.y())));
        const int bottom = std::min(plane.values.rows - 1, static_cast<int>(std::floor(to.y())));
        double sum = 0;
        int n = 0, clipped = 0;
        for (int j = top; j <= bottom; ++j)
            for (int i = left; i <= right; ++i) {
                if (!inner(Vec2(plane.u0 + i * plane.step, plane.v0 + j * plane.step))) continue;
                const float v = plane.values(j, i);
                sum += v;
                clipped += v > 0.985f;
                ++n;
            }
        if (n < 6 || clipped * 50 > n) return std::nullopt;
        return sum / n;
    }
};

std::vector<Square> squares_of(const ChartDetection& detection) {
    std::map<std::pair<int, int>, const ChartCorner*> at;
    for (const ChartCorner& c : detection.corners) at[{c.column, c.row}] = &c;
    std::vector<Square> out;
    for (const auto& [cell, first] : at) {
        std::array<const ChartCorner*, 4> corner{};
        int k = 0;
        for (const auto& [dx, dy] : {std::pair(0, 0), std::pair(1, 0), std::pair(1, 1), std::pair(0, 1)})
            if (const auto it = at.find({cell.first + dx, cell.second + dy}); it != at.end()) corner[k++] = it->second;
        if (k == 4) out.emplace_back(corner);
    }
    return out;
}

}  // namespace

std::vector<WhitePatch> measure_whites(const MeasuringPicture& picture, const ChartDetection& detection) {
    std::vector<WhitePatch> out;
    if (detection.markers > 0) return out;
    for (const Square& square : squares_of(detection)) {
        std::vector<WhitePatch> own;
        bool white = false;  // green decides for all planes
        for (const SamplePlane& plane : picture.planes) {
            const std::optional<double> mean = square.mean(plane);
            if (!mean) continue;
            own.push_back({square.middle, plane.channel, *mean});
            white = white || (plane.channel == Channel::green && *mean > square.grey);
        }
        // A bright square with a dark green plane is not a white square.
        std::erase_if(own, [&](const WhitePatch& p) { return p.channel == Channel::green && p.mean <= square.grey; });
        if (white) out.insert(out.end(), own.begin(), own.end());
    }
    return out;
}

}  // namespace optrel
