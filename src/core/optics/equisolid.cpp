// SPDX-License-Identifier: GPL-3.0-or-later
// Equisolid (equal areas for equal solid angles): rho = 2 sin(theta / 2). See angle_form.h.
#include "base/angle.h"
#include "optics/angle_form.h"

namespace optrel {
namespace {

struct Equisolid {
    static constexpr double farthest = pi;
    static constexpr std::array trials{1, 2, 3};

    template <class T>
    static T rho(const T& theta) {
        using std::sin;
        return T(2) * sin(theta * T(0.5));
    }
    static double slope(double theta) { return std::cos(0.5 * theta); }
};

constinit const AngleForm<Equisolid> equisolid_form({.name = "equisolid",
                                                     .designed = true,
                                                     .term_choices = angle_term_choices});

}  // namespace

constinit const LensModelKind LensModelKind::equisolid(&equisolid_form);

}  // namespace optrel
