// SPDX-License-Identifier: GPL-3.0-or-later
// What the two forms for rectilinear lenses have in common (Brown 1966; Conrady 1919). With r^2 = x^2 + y^2 and the
// radial factor R(r^2):
//
//   x' = x R + t (2 p1 x y + p2 (r^2 + 2 x^2)) + ox,
//   y' = y R + t (p1 (r^2 + 2 y^2) + 2 p2 x y) + oy,   with t = 1 + p3 r^2
//
// (x + ox, y + oy) are camera coordinates of the direction after a turn that brings the lens's axis, which is the
// direction (ax, ay, 1), onto (0, 0, 1); (x', y') is turned back: the direction (x', y', 1) goes through the inverse
// turn, and its first two coordinates over the third are the result. The turn is the smallest one: with w = (ax, ay, 1)
// / |(ax, ay, 1)| and v = (w_y, -w_x, 0), a direction d becomes d + v x d + v x (v x d) / (1 + w_z).
//
// What is not quite central in a lens has three causes that look alike where the lens is narrow: its elements stand
// askew (p), the sensor is not square to its axis (a: a perspective on the side of the picture), or the distortion is
// not centred on the perspective (o: an element tilted on the side of the scene). Each is a few thousandths at most;
// in the corners of a wide lens they differ by up to a tenth of a pixel.
#pragma once

#include <ceres/jet.h>

#include "optics/lens_form.h"

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

// p, a, o and p3. p3 is a factor of terms that are small already.
inline constexpr DecentringTerm plane_decentring[] = {
    {usual_decentring, 1},
    {usual_decentring, 1},
    {usual_decentring, -1},
    {usual_decentring, -1},
    {usual_decentring, -1},
    {usual_decentring, -1},
    {1, 2},
};

/// `Radial` has radial_terms and template <class T> static T factor(const T* c, const T& r2).
template <class Radial>
class PlaneForm : public LensForm {
public:
    constexpr explicit PlaneForm(Facts facts)
        : LensForm([&facts] {
              facts.decentring = plane_decentring;
              facts.optional_count = 3;
              return facts;
          }()) {}

    double farthest() const final { return 6.0; }  // 80 degrees
    double parameter(double tangent) const final { return tangent; }
    double plain_radius(double t) const final { return t; }
    Vec3 direction(const Vec2& azimuth, double t, const Vec2& axis) const final {
        return {axis.x() + azimuth.x() * t, axis.y() + azimuth.y() * t, 1};
    }

    Vec2 bend(const double* c, const Vec3& d) const final {
        const double* axis = c + first_axis;
        double x, y, mx, my;
        Vec2 out;
        to_lens(axis[0], axis[1], d.x(), d.y(), d.z(), x, y);
        bend_plane(c, axis[2], axis[3], axis[4], x, y, mx, my);
        to_camera(axis[0], axis[1], mx, my, out.x(), out.y());
        return out;
    }

    /// By the chain rule over the three steps, each with few unknowns.
    Vec2 bend(const double* c, const Vec3& d, BendDerivatives& by) const final {
        using Turn = ceres::Jet<double, 5>;                    // direction, axis
        using Plane = ceres::Jet<double, 2 + first_axis + 3>;  // x, y; radial terms and p; o and p3
        using Back = ceres::Jet<double, 4>;                    // mx, my; axis
        const double* axis = c + first_axis;
        Turn x, y;
        to_lens(Turn(axis[0], 3), Turn(axis[1], 4), Turn(d.x(), 0), Turn(d.y(), 1), Turn(d.z(), 2), x, y);
        Plane terms[first_axis], mx, my;
        for (int k = 0; k < first_axis; ++k) terms[k] = Plane(c[k], 2 + k);
        bend_plane(terms, Plane(axis[2], 2 + first_axis), Plane(axis[3], 3 + first_axis),
                   Plane(axis[4], 4 + first_axis), Plane(x.a, 0), Plane(y.a, 1), mx, my);
        Back u, v;
        to_camera(Back(axis[0], 2), Back(axis[1], 3), Back(mx.a, 0), Back(my.a, 1), u, v);

        Eigen::Matrix2d by_bent, by_axis, by_plane;
        by_bent << u.v.template head<2>().transpose(), v.v.template head<2>().transpose();
        by_axis << u.v.template tail<2>().transpose(), v.v.template tail<2>().transpose();
        Eigen::Matrix<double, 2, Plane::DIMENSION> plane;
        plane << mx.v.transpose(), my.v.transpose();
        plane = by_bent * plane;
        by_plane = plane.template leftCols<2>();
        Eigen::Matrix<double, 2, 5> turn;
        turn << x.v.transpose(), y.v.transpose();
        turn = by_plane * turn;
        by.setZero();
        by.template leftCols<3>() = turn.template leftCols<3>();
        by.template middleCols<first_axis>(3) = plane.template middleCols<first_axis>(2);
        by.template middleCols<2>(3 + first_axis) = turn.template rightCols<2>() + by_axis;
        by.template middleCols<3>(5 + first_axis) = plane.template rightCols<3>();
        return {u.a, v.a};
    }

protected:
    ~PlaneForm() = default;

private:
    static constexpr int first_axis = Radial::radial_terms + 2;  // after the radial terms and p

    template <class T>
    static void to_lens(const T& ax, const T& ay, const T& X, const T& Y, const T& Z, T& x, T& y) {
        T px, py, pz;
        turn_to_axis(ax, ay, T(1), X, Y, Z, px, py, pz);
        x = px / pz;
        y = py / pz;
    }

    template <class T>
    static void bend_plane(const T* c, const T& ox, const T& oy, const T& p3, const T& to_x, const T& to_y, T& mx,
                           T& my) {
        const T* p = c + Radial::radial_terms;
        const T x = to_x - ox, y = to_y - oy, r2 = x * x + y * y;
        const T radial = Radial::template factor<T>(c, r2);
        const T t = T(1) + p3 * r2;
        mx = x * radial + t * (T(2) * p[0] * x * y + p[1] * (r2 + T(2) * x * x)) + ox;
        my = y * radial + t * (p[0] * (r2 + T(2) * y * y) + T(2) * p[1] * x * y) + oy;
    }

    template <class T>
    static void to_camera(const T& ax, const T& ay, const T& mx, const T& my, T& u, T& v) {
        T qx, qy, qz;
        turn_to_axis(ax, ay, T(-1), mx, my, T(1), qx, qy, qz);
        u = qx / qz;
        v = qy / qz;
    }
};

}  // namespace optrel
