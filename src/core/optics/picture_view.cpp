// SPDX-License-Identifier: GPL-3.0-or-later
#include "optics/picture_view.h"

#include <fmt/format.h>

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>

#include "base/angle.h"
#include "base/error.h"

namespace optrel {

Eigen::Matrix3d CameraTurn::matrix() const {
    using Eigen::AngleAxisd;
    return (AngleAxisd(yaw_deg * degree, Vec3::UnitY()) * AngleAxisd(pitch_deg * degree, Vec3::UnitX()) *
            AngleAxisd(roll_deg * degree, Vec3::UnitZ()))
        .toRotationMatrix();
}

CameraTurn CameraTurn::of(const Eigen::Matrix3d& m) {
    // The third column is the viewing direction: (sin yaw cos pitch, -sin pitch, cos yaw cos pitch).
    return {std::atan2(m(1, 0), m(1, 1)) / degree, std::asin(std::clamp(-m(1, 2), -1.0, 1.0)) / degree,
            std::atan2(m(0, 2), m(2, 2)) / degree};
}

PictureView::PictureView(const FrameMap& lens, const Settings& settings)
    : lens_(lens), settings_(settings), middle_(lens.geometry().middle()), turned_(!settings.turn.isIdentity(0)) {
    Eigen::Matrix3d k = Eigen::Matrix3d::Identity();
    k(0, 0) = k(1, 1) = lens.focal_px();
    k(0, 2) = lens.centre().x();
    k(1, 2) = lens.centre().y();
    to_camera_ = k * settings.turn.transpose() * k.inverse();
    from_camera_ = k * settings.turn * k.inverse();
}

PictureView PictureView::at_scale(double scale) const {
    Settings settings = settings_;
    settings.scale = scale;
    return {lens_, settings};
}

std::optional<Eigen::Matrix2d> PictureView::slope(const Vec2& place, double step) const {
    Eigen::Matrix2d out;
    for (int k = 0; k < 2; ++k) {
        const Vec2 d = step * Vec2::Unit(k);
        const std::optional<Vec2> more = green(place + d), less = green(place - d);
        if (!more || !less) return std::nullopt;
        out.col(k) = (*more - *less) / (2 * step);
    }
    return out;
}

std::optional<Vec2> PictureView::place(const Vec2& frame) const {
    const std::optional<Vec2> at = lens_.ideal(frame);
    if (!at) return std::nullopt;
    Vec2 q = *at;
    if (turned_) {
        const Vec3 d = from_camera_ * Vec3(at->x(), at->y(), 1);
        if (d.z() < 1e-3) return std::nullopt;
        q = d.head<2>() / d.z();
    }
    return middle_ + settings_.shift + settings_.scale * (q - middle_);
}

double PictureView::margin(const Vec2& place) const {
    const std::optional<Vec2> at = green(place);
    if (!at) return -1e6;
    double least = 1e9;
    for (const Channel channel : {Channel::red, Channel::green, Channel::blue}) {
        const Vec2 p = channel == Channel::green ? *at : lens_.fringe(channel, *at);
        least = std::min({least, p.x(), p.y(), geometry().width - p.x(), geometry().height - p.y()});
    }
    return least;
}

bool PictureView::shows_horizon() const {
    const double w = geometry().width, h = geometry().height;
    for (const Vec2& corner : {Vec2(0, 0), Vec2(w, 0), Vec2(0, h), Vec2(w, h)}) {
        const Vec2 q = middle_ + (corner - middle_ - settings_.shift) / settings_.scale;
        if ((to_camera_ * Vec3(q.x(), q.y(), 1)).z() < 0.02) return true;
    }
    return false;
}

namespace {

/// True when the border of the corrected picture is filled everywhere. Corners are tested first, because they are empty
/// most often.
bool border_filled(const PictureView& view) {
    constexpr int samples = 512;
    const double w = view.geometry().width, h = view.geometry().height;
    for (const int stride : {samples, samples / 8, 1})
        for (int i = 0; i <= samples; i += stride) {
            const double t = i / double(samples);
            for (const Vec2& p : {Vec2(t * w, 0), Vec2(t * w, h), Vec2(0, t * h), Vec2(w, t * h)})
                if (view.margin(p) < 0) return false;
        }
    return true;
}

}  // namespace

double fill_scale(const PictureView& view) {
    constexpr double most = 8;
    double low = 0.2, high = 1;
    while (!border_filled(view.at_scale(high)) && high < most) high *= 1.5;
    if (!border_filled(view.at_scale(high)))
        throw input_error(
            fmt::format("No scale up to {:g} fills the corrected picture: it is turned or moved too far, or the lens "
                        "model does not reach so far out; turn it less, check the profile, or keep the border.",
                        most));
    while (high - low > 1e-7) {
        const double middle = 0.5 * (low + high);
        (border_filled(view.at_scale(middle)) ? high : low) = middle;
    }
    return high;
}

}  // namespace optrel
