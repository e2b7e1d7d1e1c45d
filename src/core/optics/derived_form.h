// SPDX-License-Identifier: GPL-3.0-or-later
// The part of a lens form that follows from its formula. For the files of the forms only: it brings the automatic
// differentiation along.
#pragma once

#include <ceres/jet.h>

#include "optics/lens_form.h"

namespace optrel {

/// `Formula` has template <class T> static void bend(const T* c, const T& X, const T& Y, const T& Z, T& bent_x, T&
/// bent_y).
template <class Formula>
class DerivedForm : public LensForm {
public:
    using LensForm::LensForm;

    Vec2 bend(const double* c, const Vec3& d) const final {
        Vec2 out;
        Formula::template bend<double>(c, d.x(), d.y(), d.z(), out.x(), out.y());
        return out;
    }

    Vec2 bend(const double* c, const Vec3& d, BendDerivatives& by) const final {
        using Jet = ceres::Jet<double, 3 + largest_coefficient_count>;
        Jet coefficients[largest_coefficient_count], u, v;
        for (int k = 0; k < coefficient_count(); ++k) coefficients[k] = Jet(c[k], 3 + k);
        Formula::template bend<Jet>(coefficients, Jet(d.x(), 0), Jet(d.y(), 1), Jet(d.z(), 2), u, v);
        by.row(0) = u.v.transpose();
        by.row(1) = v.v.transpose();
        return {u.a, v.a};
    }

protected:
    ~DerivedForm() = default;
};

}  // namespace optrel
