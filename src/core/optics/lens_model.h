// How a lens bends the ideal picture.
//
// Radial-tangential model (Brown 1966; Conrady 1919), with r^2 = x^2 + y^2:
//
//   x' = x (1 + k1 r^2 + k2 r^4 + k3 r^6) + 2 p1 x y + p2 (r^2 + 2 x^2)
//   y' = y (1 + k1 r^2 + k2 r^4 + k3 r^6) + p1 (r^2 + 2 y^2) + 2 p2 x y
//
// (x, y) are camera coordinates measured from the axis of symmetry (ax, ay), (x', y') the same plane after the lens; the
// picture is centre + F (x', y'). The axis differs from the foot of the perpendicular (0, 0) when the sensor is not quite
// square to the lens; it is a few thousandths at most, and without it the corners of a tilted sensor are off by 0.05 px.
#pragma once

#include <array>
#include <optional>
#include <string>

#include "optics/coordinates.h"

namespace optrel {

enum class LensModelKind { radial_tangential };

std::string to_string(LensModelKind kind);
/// Throws Error(input) for a name that this version does not know.
LensModelKind lens_model_kind(const std::string& name);

/// The formula itself, for any number type, so that the solver differentiates the very function that correction uses.
/// `c` holds k1, k2, k3, p1, p2, ax, ay.
template <class T>
void bend_radial_tangential(const T* c, const T& x_in, const T& y_in, T& bent_x, T& bent_y) {
    const T x = x_in - c[5], y = y_in - c[6];
    const T r2 = x * x + y * y;
    const T radial = T(1) + r2 * (c[0] + r2 * (c[1] + r2 * c[2]));
    bent_x = c[5] + x * radial + T(2) * c[3] * x * y + c[4] * (r2 + T(2) * x * x);
    bent_y = c[6] + y * radial + c[3] * (r2 + T(2) * y * y) + T(2) * c[4] * x * y;
}

class LensModel {
public:
    static constexpr int coefficient_count = 7;
    using Coefficients = std::array<double, coefficient_count>;

    LensModel() = default;
    LensModel(LensModelKind kind, const Coefficients& c) : kind_(kind), c_(c) {}

    LensModelKind kind() const { return kind_; }
    const Coefficients& coefficients() const { return c_; }
    Vec2 axis() const { return {c_[5], c_[6]}; }

    /// Ideal camera coordinates to bent ones.
    Vec2 bend(const Vec2& xy) const {
        Vec2 out;
        bend_radial_tangential(c_.data(), xy.x(), xy.y(), out.x(), out.y());
        return out;
    }
    /// The inverse of bend(), to 1e-12, by Newton's method; empty where the model does not reach.
    std::optional<Vec2> unbend(const Vec2& bent) const;

    /// The largest ideal radius up to which the radial part still grows; infinity when it never folds back.
    double monotonic_radius() const;

private:
    LensModelKind kind_ = LensModelKind::radial_tangential;
    Coefficients c_{};
};

}  // namespace optrel
