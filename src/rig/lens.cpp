// SPDX-License-Identifier: GPL-3.0-or-later
#include "rig/lens.h"

#include <cmath>

namespace optrel::rig {

cv::Vec3d Lens::look(int channel, const cv::Vec2d& s) const {
    cv::Vec2d q = s - centre_mm;
    double rho2 = q.dot(q) / (reference_mm * reference_mm);
    const auto& e = stretch[channel];
    q = q * (1.0 / (1 + e[0] + e[1] * rho2)) - shift_mm[channel];
    rho2 = q.dot(q) / (reference_mm * reference_mm);
    const double bend = 1 + rho2 * (division[0] + rho2 * (division[1] + rho2 * division[2]));
    const double x = q[0] / (focal_mm * bend), y = q[1] / (focal_mm * bend);
    // A tilted element acts to first order like a small rotation that grows with the angle.
    const double bow = tilt[0] * x + tilt[1] * y;
    const double bx = x * (1 + bow), by = y * (1 + bow), r = std::hypot(bx, by);
    if (projection == Projection::rectilinear || r == 0) return {bx, by, 1};
    const double angle =
        projection == Projection::equisolid ? 2 * std::asin(std::min(1.0, r / 2)) : 2 * std::atan(r / 2);
    return {bx / r * std::sin(angle), by / r * std::sin(angle), std::cos(angle)};
}

double Lens::light(int channel, const cv::Vec2d& s) const {
    const cv::Vec2d q = s - falloff_centre_mm;
    const double rho2 = q.dot(q) / (reference_mm * reference_mm);
    const double tangent2 = q.dot(q) / (focal_mm * focal_mm);
    return std::pow(1 + tangent2, -0.5 * cosine_power) / (1 + mechanical[channel] * rho2 * rho2 * rho2);
}

cv::Vec2d Lens::find(int channel, const cv::Vec2d& xy) const {
    const auto plane = [&](const cv::Vec2d& at) {
        const cv::Vec3d ray = look(channel, at);
        return cv::Vec2d(ray[0] / ray[2], ray[1] / ray[2]);
    };
    // A fisheye's picture is smaller than the ideal one: start where the angle, not its tangent, says.
    const double t = std::hypot(xy[0], xy[1]);
    cv::Vec2d s =
        (projection == Projection::rectilinear || t == 0 ? xy : xy * (std::atan(t) / t)) * focal_mm + centre_mm;
    for (int i = 0; i < 50; ++i) {
        const cv::Vec2d here = plane(s);
        const double e = 1e-4;
        const cv::Vec2d du = (plane(s + cv::Vec2d(e, 0)) - here) / e, dv = (plane(s + cv::Vec2d(0, e)) - here) / e;
        const double det = du[0] * dv[1] - du[1] * dv[0];
        const cv::Vec2d miss = xy - here;
        const cv::Vec2d step((dv[1] * miss[0] - dv[0] * miss[1]) / det, (-du[1] * miss[0] + du[0] * miss[1]) / det);
        s += step;
        if (step.dot(step) < 1e-22) break;
    }
    return s;
}

}  // namespace optrel::rig
