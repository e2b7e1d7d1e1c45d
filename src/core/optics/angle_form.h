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

#include <ceres/jet.h>

#include <array>

#include "base/angle.h"
#include "optics/lens_form.h"

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
        T mx = X / Z, my = Y / Z;  // the azimuth is undefined on the axis itself
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

// t and p.
inline constexpr DecentringTerm angle_decentring[] = {{usual_decentring},
                                                      {usual_decentring},
                                                      {usual_decentring},
                                                      {usual_decentring}};

template <class Projection>
class AngleForm final : public LensForm {
public:
    constexpr explicit AngleForm(Facts facts)
        : LensForm([&facts] {
              facts.angular = true;
              facts.radial_count = 4;
              facts.decentring = angle_decentring;
              return facts;
          }()) {}

    Vec2 bend(const double* c, const Vec3& d) const override {
        Vec2 out;
        AngleFormula<Projection>::bend(c, d.x(), d.y(), d.z(), out.x(), out.y());
        return out;
    }

    Vec2 bend(const double* c, const Vec3& d, BendDerivatives& by) const override {
        constexpr int count = 8;
        using Jet = ceres::Jet<double, 3 + count>;
        Jet coefficients[count], u, v;
        for (int k = 0; k < count; ++k) coefficients[k] = Jet(c[k], 3 + k);
        AngleFormula<Projection>::bend(coefficients, Jet(d.x(), 0), Jet(d.y(), 1), Jet(d.z(), 2), u, v);
        by.setZero();
        by.template leftCols<Jet::DIMENSION>() << u.v.transpose(), v.v.transpose();
        return {u.a, v.a};
    }

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
        constexpr double from = 32 * degree;
        if (!at.wished && !at.first->angular() && !(at.unexplained && at.angle > from)) return {};
        return {Projection::trials.begin(), Projection::trials.end()};
    }
    /// With the right projection the third term stays small, and it predicts the corners worse than two terms
    /// do.
    bool continues(const LensForm& other, int terms, int other_terms) const override {
        return &other == this && this->designed() && terms == 3 && other_terms < 3;
    }
};

inline constexpr int angle_term_choices[] = {1, 2, 3, 4};

}  // namespace optrel
