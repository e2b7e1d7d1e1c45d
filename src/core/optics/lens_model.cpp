// SPDX-License-Identifier: GPL-3.0-or-later
#include "optics/lens_model.h"

#include <fmt/format.h>

#include <cmath>

#include "base/angle.h"
#include "base/error.h"

namespace optrel {

LensModel::LensModel() : LensModel(LensModelKind::radial_tangential) {}

LensModel::LensModel(LensModelKind kind)
    : LensModel(kind, Coefficients(Coefficients::Zero(kind->coefficient_count()))) {}

LensModel::LensModel(LensModelKind kind, std::initializer_list<double> c)
    : LensModel(kind, Coefficients(Eigen::Map<const Eigen::VectorXd>(c.begin(), static_cast<Eigen::Index>(c.size())))) {
}

LensModel::LensModel(LensModelKind kind, const Coefficients& c) : kind_(kind), c_(c) {
    if (c.size() >= kind->coefficient_count() - kind->optional_count() && c.size() < kind->coefficient_count()) {
        c_.setZero(kind->coefficient_count());
        c_.head(c.size()) = c;
    }
    if (c_.size() != kind->coefficient_count())
        throw input_error(fmt::format("A {} lens has {} coefficients, not {}; solve the lens again.", kind->name(),
                                      kind->coefficient_count(), c.size()));
    if (!c.allFinite()) throw input_error("A coefficient of the lens is not a finite number; solve the lens again.");
    turn_ = find_turn();
    monotonic_radius_ = turn_;
    if (kind->angular()) monotonic_radius_ = turn_ < pi / 2 ? std::tan(turn_) : std::numeric_limits<double>::infinity();
}

double LensModel::find_turn() const {
    // A fine scan finds the first place where the slope vanishes, and bisection refines it. This is cheap and misses no
    // place within the limit that the form gives.
    const double limit = kind_->farthest(), step = 0.01;
    const auto grows = [&](double t) {
        double slope = 0;
        along(t, &slope);
        return slope > 0;
    };
    for (double t = step; t <= limit; t += step) {
        if (grows(t)) continue;
        double low = t - step, high = t;
        for (int i = 0; i < 60; ++i) {
            const double middle = 0.5 * (low + high);
            (grows(middle) ? low : high) = middle;
        }
        return low;
    }
    return kind_->angular() ? limit : std::numeric_limits<double>::infinity();
}

double LensModel::bent_radius(double ideal_radius) const { return along(kind_->parameter(ideal_radius)); }

std::optional<double> LensModel::undo_radial(double bent) const {
    double low = 0, high = turn_;
    if (!std::isfinite(high)) {
        high = std::max(1.0, 2 * bent);
        while (along(high) < bent && high < 1e4) high *= 2;
    }
    if (!(along(high) >= bent)) return std::nullopt;
    double t = std::min(bent, high);
    for (int i = 0; i < 100; ++i) {
        double slope = 0;
        const double miss = along(t, &slope) - bent;
        (miss > 0 ? high : low) = t;
        if (std::abs(miss) < 1e-15) break;
        const double newton = slope > 0 ? t - miss / slope : -1;
        const double next = newton > low && newton < high ? newton : 0.5 * (low + high);
        if (std::abs(next - t) < 1e-16) break;
        t = next;
    }
    return t;
}

LensModel LensModel::with_aspect(double aspect) const {
    if (!(aspect >= 0.9 && aspect <= 1.1))
        throw input_error(fmt::format(
            "The pixels of this lens would be {:.3f} times as high as wide, which no camera's are (0.81 to 1.21); the "
            "file is damaged.",
            aspect * aspect));
    LensModel out = *this;
    out.aspect_ = aspect;
    return out;
}

std::optional<Vec3> LensModel::ray(const Vec2& on_pixels) const {
    const Vec2 bent(on_pixels.x() / aspect_, on_pixels.y() * aspect_);
    const auto bend = [this](const Vec3& ray) { return kind_->bend(c_.data(), ray); };
    // Decentring moves a point by a few thousandths of its radius, so it is inverted by iterating on the radial
    // target.
    const Vec2 axis = this->axis();
    Vec2 target = bent - axis;
    Vec3 ray = Vec3::UnitZ();
    for (int i = 0; i < 60; ++i) {
        const double r = target.norm();
        const std::optional<double> t = undo_radial(r);
        if (!t) return std::nullopt;
        const Vec2 azimuth = r > 0 ? Vec2(target / r) : Vec2(1, 0);
        ray = kind_->direction(azimuth, *t, axis);
        const Vec2 miss = bend(ray) - bent;
        if (miss.norm() < 1e-14) break;
        target -= miss;
        if (!target.allFinite()) return std::nullopt;
    }
    if ((bend(ray) - bent).norm() > 1e-9) return std::nullopt;
    return ray.normalized();
}

std::optional<Vec2> LensModel::unbend(const Vec2& bent) const {
    const std::optional<Vec3> direction = ray(bent);
    if (!direction || direction->z() < 1e-6) return std::nullopt;
    return Vec2(direction->x() / direction->z(), direction->y() / direction->z());
}

}  // namespace optrel
