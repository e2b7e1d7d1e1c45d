// How a lens bends the ideal picture. The picture is centre + F (x', y'); the models say how (x', y') follows from a direction.
//
// Radial-tangential (Brown 1966; Conrady 1919) and rational, with r^2 = x^2 + y^2:
//
//   x' = x R(r^2) + 2 p1 x y + p2 (r^2 + 2 x^2)          R = 1 + k1 r^2 + k2 r^4 + k3 r^6                      radial-tangential
//   y' = y R(r^2) + p1 (r^2 + 2 y^2) + 2 p2 x y          R = (1 + k1 r^2 + k2 r^4 + k3 r^6) /
//                                                            (1 + k4 r^2 + k5 r^4 + k6 r^6)                    rational
//
// (x, y) are camera coordinates of the direction after a turn that brings the lens's axis, which is the direction (ax, ay, 1), onto
// (0, 0, 1); (x', y') is turned back: the direction (x', y', 1) goes through the inverse turn, and its first two coordinates over the
// third are the result. The axis differs from the sensor's perpendicular when the sensor is not quite square to the lens; it is
// a few thousandths at most, and without it the corners of a tilted sensor are off by 0.05 px. The turn is the smallest one: with
// w = (ax, ay, 1) / |(ax, ay, 1)| and v = (w_y, -w_x, 0), a direction d becomes d + v x d + v x (v x d) / (1 + w_z).
//
// Equidistant polynomial (Kannala and Brandt 2006), for fisheyes; theta is the angle from the axis, phi the azimuth:
//
//   m  = theta (1 + k1 theta^2 + k2 theta^4 + k3 theta^6 + k4 theta^8) (cos phi, sin phi)
//   (x', y') = m + m (t . m) + |m|^2 p                    t: tilt of the sensor, p: thin prism (decentring)
#pragma once

#include <array>
#include <cmath>
#include <initializer_list>
#include <limits>
#include <optional>
#include <string>

#include "optics/coordinates.h"

namespace optrel {

enum class LensModelKind { radial_tangential, rational, equidistant };

std::string to_string(LensModelKind kind);
/// Throws Error(input) for a name that this version does not know.
LensModelKind lens_model_kind(const std::string& name);

/// The radial coefficients come first, then four of decentring: p1, p2, ax, ay; for the equidistant model t_x, t_y, p_x, p_y.
constexpr int radial_count(LensModelKind kind) { return kind == LensModelKind::radial_tangential ? 3 : kind == LensModelKind::rational ? 6 : 4; }
constexpr int coefficient_count(LensModelKind kind) { return radial_count(kind) + 4; }
constexpr int largest_coefficient_count = 10;

/// The formula itself, for any number type, so that the solver differentiates the very function that correction uses.
/// `c` holds the coefficients, (X, Y, Z) any direction; only the equidistant model takes one with Z <= 0.
template <class T>
void bend_direction(LensModelKind kind, const T* c, const T& X, const T& Y, const T& Z, T& bent_x, T& bent_y) {
    using std::atan2;
    using std::sqrt;
    const T* d = c + radial_count(kind);
    if (kind == LensModelKind::equidistant) {
        const T rho2 = X * X + Y * Y;
        T mx = X / Z, my = Y / Z;  // on the axis itself, where the azimuth means nothing
        if (rho2 > T(1e-18) * Z * Z) {
            const T rho = sqrt(rho2), theta = atan2(rho, Z), q = theta * theta;
            const T r = theta * (T(1) + q * (c[0] + q * (c[1] + q * (c[2] + q * c[3])))) / rho;
            mx = X * r;
            my = Y * r;
        }
        const T tilt = T(1) + d[0] * mx + d[1] * my, m2 = mx * mx + my * my;
        bent_x = mx * tilt + m2 * d[2];
        bent_y = my * tilt + m2 * d[3];
        return;
    }
    // The turn about v = (wy, -wx, 0), forwards and back.
    const T wz = T(1) / sqrt(T(1) + d[2] * d[2] + d[3] * d[3]), wx = d[2] * wz, wy = d[3] * wz;
    const auto turned = [&](const T& way, const T& px, const T& py, const T& pz, T& qx, T& qy, T& qz) {
        const T vx = way * wy, vy = -way * wx;
        const T ux = vy * pz, uy = -vx * pz, uz = vx * py - vy * px;  // v x p
        const T k = T(1) / (T(1) + wz);
        qx = px + ux + k * vy * uz;
        qy = py + uy - k * vx * uz;
        qz = pz + uz + k * (vx * uy - vy * ux);
    };
    T px, py, pz;
    turned(T(1), X, Y, Z, px, py, pz);
    const T x = px / pz, y = py / pz;
    const T r2 = x * x + y * y;
    T radial = T(1) + r2 * (c[0] + r2 * (c[1] + r2 * c[2]));
    if (kind == LensModelKind::rational) radial /= T(1) + r2 * (c[3] + r2 * (c[4] + r2 * c[5]));
    const T mx = x * radial + T(2) * d[0] * x * y + d[1] * (r2 + T(2) * x * x);
    const T my = y * radial + d[0] * (r2 + T(2) * y * y) + T(2) * d[1] * x * y;
    T qx, qy, qz;
    turned(T(-1), mx, my, T(1), qx, qy, qz);
    bent_x = qx / qz;
    bent_y = qy / qz;
}

class LensModel {
public:
    using Coefficients = Eigen::Matrix<double, Eigen::Dynamic, 1, 0, largest_coefficient_count, 1>;

    /// No distortion: radial-tangential, all zero.
    LensModel() : LensModel(LensModelKind::radial_tangential, Coefficients::Zero(coefficient_count(LensModelKind::radial_tangential))) {}
    /// Throws Error(input) when the number of coefficients (at most 10) is not that of the kind, or one of them is not finite.
    LensModel(LensModelKind kind, const Coefficients& c);
    LensModel(LensModelKind kind, std::initializer_list<double> c) : LensModel(kind, Coefficients(Eigen::Map<const Eigen::VectorXd>(c.begin(), static_cast<Eigen::Index>(c.size())))) {}

    LensModelKind kind() const { return kind_; }
    const Coefficients& coefficients() const { return c_; }
    /// The axis of symmetry in camera coordinates (also of the bent plane).
    Vec2 axis() const { return kind_ == LensModelKind::equidistant ? Vec2::Zero() : Vec2(c_.tail<2>()); }

    /// Ideal camera coordinates to bent ones.
    Vec2 bend(const Vec2& xy) const {
        Vec2 out;
        bend_direction(kind_, c_.data(), xy.x(), xy.y(), 1.0, out.x(), out.y());
        return out;
    }
    /// A viewing direction (any length) to bent camera coordinates; a rectilinear model needs z > 0.
    Vec2 bend(const Vec3& ray) const {
        Vec2 out;
        bend_direction(kind_, c_.data(), ray.x(), ray.y(), ray.z(), out.x(), out.y());
        return out;
    }
    /// The viewing direction (unit vector) of bent coordinates, to 1e-12; empty where the model does not reach.
    std::optional<Vec3> ray(const Vec2& bent) const;
    /// The inverse of bend() in the ideal plane; empty where the model does not reach or the direction is 90 degrees off or more.
    std::optional<Vec2> unbend(const Vec2& bent) const;

    /// Bent radius of an ideal radius (tangent of the angle), about the axis of symmetry and without decentring.
    double bent_radius(double ideal_radius) const;
    /// The largest ideal radius (tangent of the angle) up to which the bent radius still grows; infinity when it never folds
    /// back within 90 degrees.
    double monotonic_radius() const { return monotonic_radius_; }

private:
    double along(double t, double* slope = nullptr) const;  // t: tangent, or the angle for the equidistant model
    double find_turn() const;
    std::optional<double> undo_radial(double bent) const;

    LensModelKind kind_ = LensModelKind::radial_tangential;
    Coefficients c_;
    double turn_ = std::numeric_limits<double>::infinity();  // where along() stops growing
    double monotonic_radius_ = std::numeric_limits<double>::infinity();
};

}  // namespace optrel
