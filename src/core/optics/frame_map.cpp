// SPDX-License-Identifier: GPL-3.0-or-later
#include "optics/frame_map.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/choose.h"
#include "base/error.h"

namespace optrel {

FrameMap::FrameMap(const ProfileNode& node, const PictureGeometry& reference, const PictureGeometry& geometry,
                   CorrectionStrength strength)
    : geometry_(geometry),
      strength_(strength),
      model_(node.model),
      focal_px_(node.focal_mm / geometry.pitch_mm()),
      centre_px_(geometry.to_image(node.centre_mm)),
      reference_px_(reference.half_diagonal_mm() / geometry.pitch_mm()),
      monotonic_radius_(node.model.monotonic_radius()),
      falloff_(node.falloff),
      reference_mm_(reference.half_diagonal_mm()) {
    const auto take = [&](Channel channel, const std::optional<Fringe>& fringe) {
        if (fringe)
            fringe_[static_cast<int>(channel)] = {fringe->c0, fringe->c1, fringe->c2,
                                                  fringe->shift_mm / geometry.pitch_mm()};
    };
    take(Channel::red, node.red);
    take(Channel::blue, node.blue);
    if (falloff_)
        for (int c = 0; c < 3; ++c)
            middle_[c] = falloff_->relative(static_cast<Channel>(c), Vec2::Zero(), reference_mm_);
}

Vec2 FrameMap::fringe(Channel channel, const Vec2& green) const {
    const ChannelFringe& f = fringe_[static_cast<int>(channel)];
    const Vec2 s = green - centre_px_;
    const double q = s.squaredNorm() / (reference_px_ * reference_px_);
    return green + strength_.fringe * (s * (f.c0 + q * (f.c1 + q * f.c2)) + f.shift_px);
}

double FrameMap::gain(Channel channel, const Vec2& frame) const {
    if (!falloff_ || strength_.vignetting == 0) return 1;
    const double relative = std::max(0.02, falloff_->relative(channel, geometry_.to_sensor(frame), reference_mm_));
    const double full = middle_[static_cast<int>(channel)] / relative;
    return strength_.vignetting == 1 ? full : std::pow(full, strength_.vignetting);
}

std::optional<Vec2> FrameMap::ideal(const Vec2& frame) const {
    const std::optional<Vec2> flat = model_.unbend((frame - centre_px_) / focal_px_);
    if (!flat) return std::nullopt;
    return centre_px_ + focal_px_ * *flat;
}

std::optional<Vec3> FrameMap::ray(const Vec2& frame) const { return model_.ray((frame - centre_px_) / focal_px_); }

double distortion_percent(const ProfileNode& node, const PictureGeometry& geometry, double h) {
    const double r = h * geometry.half_diagonal_mm() / node.focal_mm;
    if (r <= 0) return 0;
    return 100 * (node.model.bent_radius(r) / r - 1);
}

double distortion_extreme_percent(const ProfileNode& node, const PictureGeometry& geometry) {
    double extreme = 0;
    for (int i = 1; i <= 200; ++i) {
        const double d = distortion_percent(node, geometry, i / 200.0);
        if (std::abs(d) > std::abs(extreme)) extreme = d;
    }
    return extreme;
}

std::vector<Vec2> picture_grid(const PictureGeometry& geometry, int across, int down) {
    std::vector<Vec2> points;
    points.reserve(static_cast<std::size_t>(across) * down);
    for (int j = 0; j < down; ++j)
        for (int i = 0; i < across; ++i)
            points.emplace_back(geometry.width * (i / (across - 1.0)), geometry.height * (j / (down - 1.0)));
    return points;
}

namespace {

/// How far (px) the border of the corrected picture at this scale looks beyond the frame, at the worst place; negative:
/// inside.
double overshoot(const FrameMap& map, double scale) {
    const PictureGeometry& g = map.geometry();
    const double w = g.width, h = g.height;
    const auto at = [&](double t) {  // t in [0, 4) runs round the border
        const int side = std::min(3, static_cast<int>(t));
        const double f = t - side;
        const Vec2 p = first_of<Vec2>(
            {{side == 0, Vec2(f * w, 0)}, {side == 1, Vec2(w, f * h)}, {side == 2, Vec2((1 - f) * w, h)}},
            Vec2(0, (1 - f) * h));
        const Vec2 ideal = g.middle() + (p - g.middle()) / scale;
        if (!map.reaches(ideal)) return 1e6;
        const Vec2 green = map.green(ideal);
        double worst = -1e9;
        for (const Channel channel : {Channel::red, Channel::green, Channel::blue}) {
            const Vec2 q = channel == Channel::green ? green : map.fringe(channel, green);
            worst = std::max({worst, -q.x(), -q.y(), q.x() - w, q.y() - h});
        }
        return worst;
    };
    const int samples = 512;
    double worst = -1e9;
    for (int side = 0; side < 4; ++side)
        for (int i = 0; i <= samples; ++i)
            worst = std::max(worst, at(std::min(side + i / double(samples), side + 1 - 1e-12)));
    return worst;
}

}  // namespace

double fill_scale(const FrameMap& map) {
    constexpr double most = 8;
    double low = 0.2, high = 1;
    while (overshoot(map, high) > 0 && high < most) high *= 1.5;
    if (overshoot(map, high) > 0)
        throw input_error(
            fmt::format("No scale up to {:g} fills the corrected picture: the lens model folds back inside it or "
                        "reaches too far out; check the profile, or keep the border.",
                        most));
    for (int i = 0; i < 40; ++i) {
        const double middle = 0.5 * (low + high);
        (overshoot(map, middle) > 0 ? low : high) = middle;
    }
    return high;
}

}  // namespace optrel
