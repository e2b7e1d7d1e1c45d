// SPDX-License-Identifier: GPL-3.0-or-later
// What the forms for fisheyes have in common: an ideal projection rho(theta) of the angle from the axis, an even
// polynomial of it, and the tilt t of the sensor and the decentring p (thin prism). With the azimuth phi:
//
//   m = rho (1 + k1 rho^2 + k2 rho^4 + k3 rho^6 + k4 rho^8) (cos phi, sin phi)
//   (x', y') = m + m (t . m) + |m|^2 p
//
// The polynomial with rho = theta is that of Kannala and Brandt (2006). Fisheyes are designed after one projection or
// another (Miyamoto 1964; Schneider, Schwalbe and Maas 2009): about the right one few terms are needed, and few terms
// can be trusted where no corner was seen.
#pragma once

#include <array>

#include "optics/derived_form.h"

namespace optrel {

/// `Projection` has template <class T> static T rho(const T& theta), static double slope(double theta), and farthest
/// (radians).
template <class Projection>
struct AngleFormula {
    template <class T>
    static void bend(const T* c, const T& X, const T& Y, const T& Z, T& bent_x, T& bent_y) {
        using std::atan2;
        using std::sqrt;
        const T across2 = X * X + Y * Y;
        T mx = X / Z, my = Y / Z;  // on the axis itself, where the azimuth means nothing
        if (across2 > T(1e-18) * Z * Z) {
            const T across = sqrt(across2), rho = Projection::template rho<T>(T(atan2(across, Z))), q = rho * rho;
            const T r = rho * (T(1) + q * (c[0] + q * (c[1] + q * (c[2] + q * c[3])))) / across;
            mx = X * r;
            my = Y * r;
        }
        const T tilt = T(1) + c[4] * mx + c[5] * my, m2 = mx * mx + my * my;
        bent_x = mx * tilt + m2 * c[6];
        bent_y = my * tilt + m2 * c[7];
    }
};

template <class Projection>
class AngleForm final : public DerivedForm<AngleFormula<Projection>> {
public:
    using DerivedForm<AngleFormula<Projection>>::DerivedForm;

    double radius(const double* c, double t, double* slope) const override {
        const double rho = plain_radius(t), q = rho * rho;
        if (slope)
            *slope = (1 + q * (3 * c[0] + q * (5 * c[1] + q * (7 * c[2] + q * 9 * c[3])))) * Projection::slope(t);
        return rho * (1 + q * (c[0] + q * (c[1] + q * (c[2] + q * c[3]))));
    }
    double farthest() const override { return Projection::farthest; }
    double parameter(double tangent) const override { return std::atan(tangent); }
    double plain_radius(double t) const override { return Projection::template rho<double>(t); }
    Vec3 direction(const Vec2& azimuth, double t, const Vec2&) const override {
        return {azimuth.x() * std::sin(t), azimuth.y() * std::sin(t), std::cos(t)};
    }

    std::vector<int> worth_trying(const TrialContext& at) const override {
        constexpr double from = 32 * 3.14159265358979323846 / 180;
        if (!at.wished && !at.first->angular() && !(at.unexplained && at.angle > from)) return {};
        return {Projection::trials.begin(), Projection::trials.end()};
    }
    /// About the right projection the third term stays small, and what it says of the corners is more than what two
    /// terms leave out.
    bool continues(const LensForm& other, int terms, int other_terms) const override {
        return &other == this && this->designed() && terms == 3 && other_terms < 3;
    }
};

inline constexpr int angle_term_choices[] = {1, 2, 3, 4};

}  // namespace optrel
