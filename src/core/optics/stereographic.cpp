// SPDX-License-Identifier: GPL-3.0-or-later
// Stereographic (circles stay circles): rho = 2 tan(theta / 2). See angle_form.h.
#include "optics/angle_form.h"

namespace optrel {
namespace {

struct Stereographic {
    static constexpr double farthest = 3.0;  // infinite at 180 degrees
    static constexpr std::array trials{1, 2, 3};

    template <class T>
    static T rho(const T& theta) {
        using std::tan;
        return T(2) * tan(theta * T(0.5));
    }
    static double slope(double theta) { return 1 / (std::cos(0.5 * theta) * std::cos(0.5 * theta)); }
};

constinit const AngleForm<Stereographic> stereographic_form({.name = "stereographic",
                                                             .designed = true,
                                                             .term_choices = angle_term_choices});

}  // namespace

constinit const LensModelKind LensModelKind::stereographic(&stereographic_form);

}  // namespace optrel
