// SPDX-License-Identifier: GPL-3.0-or-later
// Rational: R = (1 + k1 r^2 + k2 r^4 + k3 r^6) / (1 + k4 r^2 + k5 r^4 + k6 r^6). See plane_form.h.
#include <limits>

#include "base/angle.h"
#include "optics/plane_form.h"

namespace optrel {
namespace {

constexpr int rational_choices[] = {4, 6};

struct Quotient {
    static constexpr int radial_terms = 6;

    template <class T>
    static T factor(const T* c, const T& r2) {
        return (T(1) + r2 * (c[0] + r2 * (c[1] + r2 * c[2]))) / (T(1) + r2 * (c[3] + r2 * (c[4] + r2 * c[5])));
    }
};

class Rational final : public PlaneForm<Quotient> {
public:
    using PlaneForm::PlaneForm;

    double radius(const double* c, double t, double* slope) const override {
        const double q = t * t;
        const double n = 1 + q * (c[0] + q * (c[1] + q * c[2]));
        const double dn = q * (2 * c[0] + q * (4 * c[1] + q * 6 * c[2]));  // t dn/dt
        const double d = 1 + q * (c[3] + q * (c[4] + q * c[5]));
        const double dd = q * (2 * c[3] + q * (4 * c[4] + q * 6 * c[5]));
        if (!(d > 1e-6)) {  // undefined beyond a pole
            if (slope) *slope = -1;
            return std::numeric_limits<double>::infinity();
        }
        if (slope) *slope = (n + dn) / d - n * dd / (d * d);
        return t * n / d;
    }

    /// Four terms are two in the numerator and two in the denominator.
    std::vector<int> held(int terms) const override { return terms < 6 ? std::vector<int>{2, 5} : std::vector<int>{}; }
    /// A single additional term of a quotient has no meaning by itself.
    int next_term(int) const override { return -1; }
    /// ratio (1 + k4 q + ...) = 1 + k1 q + ..., which is linear in all of them.
    double fit_factor(int k, double q, double ratio) const override {
        return k < 3 ? std::pow(q, k + 1) : -ratio * std::pow(q, k - 2);
    }

    /// A narrow lens does not determine the terms of a quotient.
    std::vector<int> worth_trying(const TrialContext& at) const override {
        if (at.wished ? at.angle >= 85 * degree
                      : at.first->angular() || at.angle <= 12 * degree || at.angle >= 65 * degree)
            return {};
        return at.unexplained || at.wished ? std::vector{4, 6} : std::vector{4};
    }
    /// A lens that needs the third polynomial term is better continued into the corners by a quotient of two short
    /// polynomials, which bends like glass does.
    bool continues(const LensForm& other, int terms, int other_terms) const override {
        return other.polynomial() && other_terms == 3 && terms == 4;
    }
};

constinit const Rational rational_form(
    {.name = "rational", .radial_count = 6, .term_choices = rational_choices, .term_sigma = 3});

}  // namespace

constinit const LensModelKind LensModelKind::rational(&rational_form);

}  // namespace optrel
