// SPDX-License-Identifier: GPL-3.0-or-later
// What the two forms for rectilinear lenses have in common (Brown 1966; Conrady 1919). With r^2 = x^2 + y^2 and the
// radial factor R(r^2):
//
//   x' = x R + 2 p1 x y + p2 (r^2 + 2 x^2),   y' = y R + p1 (r^2 + 2 y^2) + 2 p2 x y
//
// (x, y) are camera coordinates of the direction after a turn that brings the lens's axis, which is the direction (ax,
// ay, 1), onto (0, 0, 1); (x', y') is turned back: the direction (x', y', 1) goes through the inverse turn, and its
// first two coordinates over the third are the result. The axis differs from the sensor's perpendicular when the sensor
// is not quite square to the lens; it is a few thousandths at most, and without it the corners of a tilted sensor are
// off by 0.05 px. The turn is the smallest one: with w = (ax, ay, 1) / |(ax, ay, 1)| and v = (w_y, -w_x, 0), a
// direction d becomes d + v x d + v x (v x d) / (1 + w_z).
#pragma once

#include "optics/derived_form.h"

namespace optrel {

/// The turn about v = (w_y, -w_x, 0), forwards (way 1) or back (way -1).
template <class T>
void turn_to_axis(const T& ax, const T& ay, const T& way, const T& px, const T& py, const T& pz, T& qx, T& qy, T& qz) {
    using std::sqrt;
    const T wz = T(1) / sqrt(T(1) + ax * ax + ay * ay);
    const T vx = way * ay * wz, vy = -way * ax * wz;
    const T ux = vy * pz, uy = -vx * pz, uz = vx * py - vy * px;  // v x p
    const T k = T(1) / (T(1) + wz);
    qx = px + ux + k * vy * uz;
    qy = py + uy - k * vx * uz;
    qz = pz + uz + k * (vx * uy - vy * ux);
}

/// `Radial` has radial_terms and template <class T> static T factor(const T* c, const T& r2).
template <class Radial>
struct PlaneFormula {
    template <class T>
    static void bend(const T* c, const T& X, const T& Y, const T& Z, T& bent_x, T& bent_y) {
        const T* d = c + Radial::radial_terms;
        T px, py, pz;
        turn_to_axis(d[2], d[3], T(1), X, Y, Z, px, py, pz);
        const T x = px / pz, y = py / pz;
        const T r2 = x * x + y * y;
        const T radial = Radial::template factor<T>(c, r2);
        const T mx = x * radial + T(2) * d[0] * x * y + d[1] * (r2 + T(2) * x * x);
        const T my = y * radial + d[0] * (r2 + T(2) * y * y) + T(2) * d[1] * x * y;
        T qx, qy, qz;
        turn_to_axis(d[2], d[3], T(-1), mx, my, T(1), qx, qy, qz);
        bent_x = qx / qz;
        bent_y = qy / qz;
    }
};

template <class Radial>
class PlaneForm : public DerivedForm<PlaneFormula<Radial>> {
public:
    using DerivedForm<PlaneFormula<Radial>>::DerivedForm;

    double farthest() const final { return 6.0; }  // 80 degrees
    double parameter(double tangent) const final { return tangent; }
    double plain_radius(double t) const final { return t; }
    Vec3 direction(const Vec2& azimuth, double t, const Vec2& axis) const final {
        return {axis.x() + azimuth.x() * t, axis.y() + azimuth.y() * t, 1};
    }

protected:
    ~PlaneForm() = default;
};

}  // namespace optrel
