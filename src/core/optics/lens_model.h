// SPDX-License-Identifier: GPL-3.0-or-later
// The bending of the ideal picture by a lens: one form of model (lens_form.h) with its coefficients.
#pragma once

#include <initializer_list>
#include <limits>
#include <optional>

#include "optics/coordinates.h"
#include "optics/lens_form.h"

namespace optrel {

class LensModel {
public:
    using Coefficients = Eigen::Matrix<double, Eigen::Dynamic, 1, 0, largest_coefficient_count, 1>;

    /// No distortion: radial-tangential, all zero.
    LensModel();
    /// Throws Error(input) when a coefficient is not finite, or when their number (at most 13) does not fit the kind,
    /// with or without its optional ones.
    LensModel(LensModelKind kind, const Coefficients& c);
    LensModel(LensModelKind kind, std::initializer_list<double> c);
    /// The undistorted lens of a kind.
    explicit LensModel(LensModelKind kind);

    /// The same lens in front of pixels that are not square: bent coordinates (x, y) become (a x, y / a), with
    /// a = sqrt(fx / fy) for a camera of two focal lengths in px. Of a file that another program wrote; what Optrel
    /// measures has 1. Throws Error(input) outside 0.9 to 1.1.
    LensModel with_aspect(double aspect) const;
    double aspect() const { return aspect_; }

    LensModelKind kind() const { return kind_; }
    const Coefficients& coefficients() const { return c_; }
    /// The centre of the distortion in camera coordinates (also in the bent plane), to first order.
    Vec2 axis() const {
        if (kind_->angular()) return Vec2::Zero();
        return c_.segment<2>(kind_->radial_count() + 2) + c_.segment<2>(kind_->radial_count() + 4);
    }

    /// Ideal camera coordinates to bent ones.
    Vec2 bend(const Vec2& xy) const { return bend(Vec3(xy.x(), xy.y(), 1)); }
    /// A viewing direction (any length) to bent camera coordinates; a rectilinear model needs z > 0.
    Vec2 bend(const Vec3& ray) const {
        const Vec2 square = kind_->bend(c_.data(), ray);
        return {aspect_ * square.x(), square.y() / aspect_};
    }
    /// The viewing direction (unit vector) of bent coordinates, to 1e-12; empty outside the range of the model.
    std::optional<Vec3> ray(const Vec2& bent) const;
    /// The inverse of bend() in the ideal plane; empty outside the range of the model and for directions of 90 degrees
    /// or more.
    std::optional<Vec2> unbend(const Vec2& bent) const;

    /// Bent radius of an ideal radius (tangent of the angle), about the axis of symmetry and without decentring.
    double bent_radius(double ideal_radius) const;
    /// The largest ideal radius (tangent of the angle) up to which the bent radius still grows; infinity when it never
    /// folds back within 90 degrees.
    double monotonic_radius() const { return monotonic_radius_; }

private:
    double along(double t, double* slope = nullptr) const { return kind_->radius(c_.data(), t, slope); }
    double find_turn() const;
    std::optional<double> undo_radial(double bent) const;

    LensModelKind kind_ = LensModelKind::radial_tangential;
    Coefficients c_;
    double aspect_ = 1;
    double turn_ = std::numeric_limits<double>::infinity();  // where along() stops growing
    double monotonic_radius_ = std::numeric_limits<double>::infinity();
};

}  // namespace optrel
