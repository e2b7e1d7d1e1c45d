// SPDX-License-Identifier: GPL-3.0-or-later
#include "optics/frame_map.h"

#include <Eigen/LU>
#include <algorithm>
#include <cmath>

namespace optrel {

namespace {

/// Tangent of the smallest angle at which the radius, with the correction by hand, stops growing.
double first_turn(const LensModel& model, const CorrectionStrength& strength, double hand_per_square) {
    const double own = model.monotonic_radius();
    if (hand_per_square >= 0 || strength.distortion == 0) {
        const double bare = hand_per_square < 0 ? std::sqrt(-1 / (3 * hand_per_square)) : INFINITY;
        return std::min(own, bare);
    }
    constexpr int steps = 2000;
    const double reach = std::min(own, 6.0);
    double before = 0;
    for (int i = 1; i <= steps; ++i) {
        const double t = i * reach / steps;
        const double r = t + strength.distortion * (model.bent_radius(t) - t) + hand_per_square * t * t * t;
        if (r <= before) return (i - 1) * reach / steps;
        before = r;
    }
    return own;
}

}  // namespace

FrameMap::FrameMap(const ProfileNode& node, const PictureGeometry& reference, const PictureGeometry& geometry,
                   CorrectionStrength strength, const HandCorrection& hand)
    : geometry_(geometry),
      strength_(strength),
      hand_(hand),
      model_(node.model),
      focal_px_(node.focal_mm / geometry.pitch_mm()),
      centre_px_(geometry.to_image(node.centre_mm)),
      reference_px_(reference.half_diagonal_mm() / geometry.pitch_mm()),
      half_diagonal_px_(geometry.half_diagonal_mm() / geometry.pitch_mm()),
      monotonic_radius_(first_turn(node.model, strength, hand.distortion * std::pow(focal_px_ / half_diagonal_px_, 2))),
      falloff_(node.falloff),
      reference_mm_(reference.half_diagonal_mm()) {
    const auto take = [&](Channel channel, const std::optional<LateralChromatic>& fringe, double hand_px,
                          double bow_px) {
        ChannelShift& to = fringe_[static_cast<int>(channel)];
        if (fringe) to = {fringe->c0, fringe->c1, fringe->c2, fringe->shift_mm / geometry.pitch_mm(), 0};
        to.by_hand = hand_px / half_diagonal_px_;
        to.bow = bow_shape * bow_px / half_diagonal_px_;
    };
    take(Channel::red, node.red, hand.red_px, hand.red_bow_px);
    take(Channel::blue, node.blue, hand.blue_px, hand.blue_bow_px);
    if (falloff_)
        for (int c = 0; c < 3; ++c)
            middle_[c] = falloff_->relative(static_cast<Channel>(c), Vec2::Zero(), reference_mm_);
}

Vec2 FrameMap::fringe(Channel channel, const Vec2& green) const {
    const ChannelShift& f = fringe_[static_cast<int>(channel)];
    const Vec2 s = green - centre_px_;
    const double q = s.squaredNorm() / (reference_px_ * reference_px_);
    return green + strength_.fringe * (s * (f.c0 + q * (f.c1 + q * f.c2)) + f.shift_px) +
           fringe_by_hand(channel, green);
}

Vec2 FrameMap::fringe_by_hand(Channel channel, const Vec2& green) const {
    const ChannelShift& f = fringe_[static_cast<int>(channel)];
    const Vec2 s = green - centre_px_;
    return s * (f.by_hand - f.bow * (1 - s.squaredNorm() / (half_diagonal_px_ * half_diagonal_px_)));
}

double FrameMap::gain(Channel channel, const Vec2& frame) const {
    const double height = (frame - falloff_centre()).norm() / half_diagonal_px_;
    const double beyond = std::max(0.0, (height - hand_.light_from) / (1 - hand_.light_from));
    const double by_hand = hand_.light_ev != 0 ? std::exp2(hand_.light_ev * beyond * beyond) : 1;
    if (!falloff_ || strength_.vignetting == 0) return by_hand;
    const double relative = std::max(0.02, falloff_->relative(channel, geometry_.to_sensor(frame), reference_mm_));
    const double full = middle_[static_cast<int>(channel)] / relative;
    return by_hand * (strength_.vignetting == 1 ? full : std::pow(full, strength_.vignetting));
}

std::optional<Vec2> FrameMap::ideal(const Vec2& frame) const {
    const std::optional<Vec2> flat = model_.unbend((frame - centre_px_) / focal_px_);
    if (!flat) return std::nullopt;
    Vec2 at = centre_px_ + focal_px_ * *flat;
    if (strength_.distortion == 1 && hand_.distortion == 0) return at;
    for (int round = 0; round < 50; ++round) {
        const Vec2 off = green(at) - frame;
        if (off.norm() < 1e-9 * half_diagonal_px_) return reaches(at) ? std::optional(at) : std::nullopt;
        // The derivative by finite differences; the steps stay within one half-diagonal.
        Eigen::Matrix2d slope;
        for (int k = 0; k < 2; ++k) slope.col(k) = green(at + Vec2::Unit(k)) - green(at - Vec2::Unit(k));
        Vec2 step = 2 * slope.inverse() * off;
        const double longest = 0.2 * half_diagonal_px_;
        if (!step.allFinite()) return std::nullopt;
        if (step.norm() > longest) step *= longest / step.norm();
        at -= step;
    }
    return std::nullopt;
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

}  // namespace optrel
