// SPDX-License-Identifier: GPL-3.0-or-later
// Equidistant: rho = theta. See angle_form.h.
#include "base/angle.h"
#include "optics/angle_form.h"

namespace optrel {
namespace {

constexpr double equidistant_starts[] = {0.22, 0.32, 0.45, 0.65, 0.9};

struct Equidistant {
    static constexpr double farthest = pi;
    static constexpr std::array trials{2, 3, 4};

    template <class T>
    static T rho(const T& theta) {
        return theta;
    }
    static double slope(double) { return 1; }
};

/// The only fisheye form that serves as a start for an unknown lens: with two terms it follows any fisheye closely
/// enough.
constinit const AngleForm<Equidistant> equidistant_form(
    {.name = "equidistant", .term_choices = angle_term_choices, .starts = equidistant_starts, .start_terms = 2});

}  // namespace

constinit const LensModelKind LensModelKind::equidistant(&equidistant_form);

}  // namespace optrel
