// SPDX-License-Identifier: GPL-3.0-or-later
// The corrected picture as it is looked at: the camera turned by hand, moved and scaled, on top of what the lens does.
//
// One mapping leads from a place of the corrected picture to the frame, so that there is one resampling:
//
//   q = middle + (p - middle - shift) / scale            in the corrected picture, lens axis at the centre c
//   d = R^T ((q - c) / F, 1)                             the direction in the camera that took the frame
//   ideal = c + F (d_x, d_y) / d_z, then FrameMap        F in px, so that proportions come out right
//
// R = R_y(yaw) R_x(pitch) R_z(roll) leads from the coordinates of the camera as it was held to those of a camera held
// level and square to the scene.
#pragma once

#include <Eigen/Core>
#include <optional>

#include "optics/frame_map.h"

namespace optrel {

/// Orientation of the camera in degrees: roll clockwise as seen from behind it, pitch upwards, yaw to the right.
struct CameraTurn {
    double roll_deg = 0, pitch_deg = 0, yaw_deg = 0;

    bool any() const { return roll_deg != 0 || pitch_deg != 0 || yaw_deg != 0; }
    /// R as in the formulae above.
    Eigen::Matrix3d matrix() const;
    /// The inverse of matrix(), with pitch within 90 degrees.
    static CameraTurn of(const Eigen::Matrix3d& matrix);
};

class PictureView {
public:
    struct Settings {
        Eigen::Matrix3d turn = Eigen::Matrix3d::Identity();  ///< R, in the coordinates of the sensor's picture
        Vec2 shift = Vec2::Zero();                           ///< px of the corrected picture
        double scale = 1;
    };

    explicit PictureView(const FrameMap& lens) : PictureView(lens, Settings()) {}
    PictureView(const FrameMap& lens, const Settings& settings);

    const FrameMap& lens() const { return lens_; }
    const PictureGeometry& geometry() const { return lens_.geometry(); }
    const Settings& settings() const { return settings_; }
    /// The same at another scale.
    PictureView at_scale(double scale) const;

    /// The ideal position (px) of a place in the corrected picture (px); empty behind the camera or outside the range
    /// of the lens model.
    std::optional<Vec2> ideal(const Vec2& place) const {
        const Vec2 q = middle_ + (place - middle_ - settings_.shift) / settings_.scale;
        if (!turned_) return lens_.reaches(q) ? std::optional(q) : std::nullopt;
        const Vec3 d = to_camera_ * Vec3(q.x(), q.y(), 1);
        if (d.z() < 1e-3) return std::nullopt;
        const Vec2 out = d.head<2>() / d.z();
        return lens_.reaches(out) ? std::optional(out) : std::nullopt;
    }
    /// The position of its green light in the frame (px).
    std::optional<Vec2> green(const Vec2& place) const {
        const std::optional<Vec2> at = ideal(place);
        return at ? std::optional(lens_.green(*at)) : std::nullopt;
    }
    /// The derivative of green() with respect to the place, by differences over `step` px to both sides; empty where
    /// green() is empty.
    std::optional<Eigen::Matrix2d> slope(const Vec2& place, double step) const;
    /// The place in the corrected picture of a position in the frame: the inverse of green().
    std::optional<Vec2> place(const Vec2& frame) const;

    /// The smallest distance (px of the frame) of all colours of a place from the frame's edges; negative outside,
    /// where the corrected picture is empty.
    double margin(const Vec2& place) const;
    /// True when a corner of the corrected picture looks along the plane of the camera or behind it.
    bool shows_horizon() const;

private:
    FrameMap lens_;
    Settings settings_;
    Vec2 middle_;
    bool turned_;
    Eigen::Matrix3d to_camera_, from_camera_;  ///< between places at scale 1 and ideal positions, both homogeneous px
};

/// The smallest scale about the middle of the picture at which the corrected picture has no empty border; all else
/// is as in `view`. Exact to a hundredth of a pixel, for all channels. Throws Error(input) when no scale up to 8
/// suffices.
double fill_scale(const PictureView& view);

}  // namespace optrel
