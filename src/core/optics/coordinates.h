// SPDX-License-Identifier: GPL-3.0-or-later
// The coordinate conventions of Optrel, in one place.
//
//   image    (u, v) in pixels. The origin is the outer corner of the top-left pixel, so pixel (i, j) has its centre at
//            (i + 0.5, j + 0.5). Libraries that put the centre at integers are converted at the call and nowhere else.
//   sensor   s = ((u, v) - (W, H) / 2) * pitch, in millimetres from the middle of the picture.
//   camera   (x, y) = (X / Z, Y / Z), dimensionless; x right, y down, z forward.
//   field height  h = |s| / (half the diagonal of the picture): 0 in the middle, 1 in the corner.
//
// The ideal (rectilinear) position of a ray is centre + F * (x, y).
#pragma once

#include <Eigen/Core>
#include <algorithm>
#include <cmath>

namespace optrel {

using Vec2 = Eigen::Vector2d;
using Vec3 = Eigen::Vector3d;

/// The sampling of a picture: its size in pixels and the distance between pixel centres.
struct PictureGeometry {
    int width = 0;
    int height = 0;
    double pitch_um = 0;

    double pitch_mm() const { return pitch_um * 1e-3; }
    Vec2 middle() const { return {width / 2.0, height / 2.0}; }
    double half_diagonal_px() const { return 0.5 * std::hypot(width, height); }
    double half_diagonal_mm() const { return half_diagonal_px() * pitch_mm(); }
    Vec2 to_sensor(const Vec2& uv) const { return (uv - middle()) * pitch_mm(); }
    Vec2 to_image(const Vec2& s) const { return s / pitch_mm() + middle(); }
    /// Index of the cell that contains a place of the picture, of `across` by `down` equal cells counted along the
    /// rows. A place outside the picture gets the nearest cell.
    int cell(const Vec2& uv, int across, int down) const {
        const auto nth = [](double share, int cells) {
            return std::clamp(static_cast<int>(share * cells), 0, cells - 1);
        };
        return nth(uv.y() / height, down) * across + nth(uv.x() / width, across);
    }
    bool contains(const Vec2& uv) const { return uv.x() >= 0 && uv.y() >= 0 && uv.x() <= width && uv.y() <= height; }
};

enum class Channel { red = 0, green = 1, blue = 2 };

}  // namespace optrel
