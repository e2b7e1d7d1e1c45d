// SPDX-License-Identifier: GPL-3.0-or-later
// The simulated lens. Its formulae run from the picture back to the world and share nothing with the models of core,
// which run the other way:
//
//   rho = |s - centre| / reference radius          s: millimetres on the sensor
//   r = (|s - centre| / f) / (1 + d1 rho^2 + d2 rho^4 + d3 rho^6),  turned by a small element tilt
//   rectilinear: r is the tangent of the viewing angle; equisolid: twice the sine of its half; stereographic: twice the
//   tangent of its half red and blue see the sensor stretched by 1 + e0 + e1 rho^2, and shifted light = cos(angle)^p /
//   (1 + m rho^6) about a centre of its own
#pragma once

#include <array>
#include <opencv2/core.hpp>

namespace optrel::rig {

enum class Projection { rectilinear, equisolid, stereographic };

struct Lens {
    Projection projection = Projection::rectilinear;
    double focal_mm = 35;
    cv::Vec2d centre_mm{0, 0};
    double reference_mm = 14;
    std::array<double, 3> division{};                ///< d1, d2, d3
    cv::Vec2d tilt{0, 0};                            ///< element tilt, radians
    std::array<std::array<double, 2>, 3> stretch{};  ///< [red, green, blue][e0, e1]
    std::array<cv::Vec2d, 3> shift_mm{};             ///< by channel
    double cosine_power = 4;
    std::array<double, 3> mechanical{};  ///< m by channel
    cv::Vec2d falloff_centre_mm{0, 0};

    /// The viewing direction (any length) of a channel at a sensor position.
    cv::Vec3d look(int channel, const cv::Vec2d& s) const;
    /// Relative illuminance at a sensor position, 1 on the falloff's axis.
    double light(int channel, const cv::Vec2d& s) const;
    /// The inverse of look(): the sensor position of camera coordinates, by Newton's method on differences.
    cv::Vec2d find(int channel, const cv::Vec2d& xy) const;
};

}  // namespace optrel::rig
