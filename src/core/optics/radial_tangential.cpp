// SPDX-License-Identifier: GPL-3.0-or-later
// Radial-tangential: R = 1 + k1 r^2 + k2 r^4 + k3 r^6. See plane_form.h.
#include "base/angle.h"
#include "optics/plane_form.h"

namespace optrel {
namespace {

constexpr int radial_choices[] = {1, 2, 3};
constexpr double radial_starts[] = {0.45, 0.65, 0.9, 1.3, 1.9, 3.0};

struct Polynomial {
    static constexpr int radial_terms = 3;

    template <class T>
    static T factor(const T* c, const T& r2) {
        return T(1) + r2 * (c[0] + r2 * (c[1] + r2 * c[2]));
    }
};

class RadialTangential final : public PlaneForm<Polynomial> {
public:
    using PlaneForm::PlaneForm;

    double radius(const double* c, double t, double* slope) const override {
        const double q = t * t;
        if (slope) *slope = 1 + q * (3 * c[0] + q * (5 * c[1] + q * 7 * c[2]));
        return t * Polynomial::factor<double>(c, q);
    }

    /// A polynomial of the tangent cannot represent a lens far beyond 60 degrees.
    std::vector<int> worth_trying(const TrialContext& at) const override {
        return at.angle < (at.wished ? 85 : 65) * degree ? std::vector{2, 3} : std::vector<int>{};
    }
};

constinit const RadialTangential radial_tangential_form({.name = "radial-tangential",
                                                         .polynomial = true,
                                                         .radial_count = 3,
                                                         .term_choices = radial_choices,
                                                         .starts = radial_starts,
                                                         .start_terms = 3});

}  // namespace

constinit const LensModelKind LensModelKind::radial_tangential(&radial_tangential_form);

}  // namespace optrel
