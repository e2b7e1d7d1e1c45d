#include "optics/lens_model.h"

#include <fmt/format.h>

#include <cmath>

#include "base/error.h"

namespace optrel {
namespace {

constexpr double pi = 3.14159265358979323846;

}  // namespace

std::string to_string(LensModelKind kind) {
    switch (kind) {
        case LensModelKind::rational: return "rational";
        case LensModelKind::equidistant: return "equidistant";
        default: return "radial-tangential";
    }
}

LensModelKind lens_model_kind(const std::string& name) {
    for (const LensModelKind kind : {LensModelKind::radial_tangential, LensModelKind::rational, LensModelKind::equidistant})
        if (name == to_string(kind)) return kind;
    throw input_error(fmt::format("The lens model '{}' is not known to this version; use a newer Optrel or solve the lens again.", name));
}

LensModel::LensModel(LensModelKind kind, const Coefficients& c) : kind_(kind), c_(c) {
    if (c.size() != coefficient_count(kind))
        throw input_error(fmt::format("A {} lens has {} coefficients, not {}; solve the lens again.", to_string(kind), coefficient_count(kind), c.size()));
    if (!c.allFinite()) throw input_error("A coefficient of the lens is not a finite number; solve the lens again.");
    turn_ = find_turn();
    monotonic_radius_ = kind_ != LensModelKind::equidistant ? turn_ : turn_ < pi / 2 ? std::tan(turn_) : std::numeric_limits<double>::infinity();
}

double LensModel::along(double t, double* slope) const {
    const double q = t * t;
    if (kind_ == LensModelKind::equidistant) {
        if (slope) *slope = 1 + q * (3 * c_[0] + q * (5 * c_[1] + q * (7 * c_[2] + q * 9 * c_[3])));
        return t * (1 + q * (c_[0] + q * (c_[1] + q * (c_[2] + q * c_[3]))));
    }
    const double n = 1 + q * (c_[0] + q * (c_[1] + q * c_[2]));
    const double dn = q * (2 * c_[0] + q * (4 * c_[1] + q * 6 * c_[2]));  // t dn/dt
    if (kind_ == LensModelKind::radial_tangential) {
        if (slope) *slope = n + dn;
        return t * n;
    }
    const double d = 1 + q * (c_[3] + q * (c_[4] + q * c_[5]));
    const double dd = q * (2 * c_[3] + q * (4 * c_[4] + q * 6 * c_[5]));
    if (!(d > 1e-6)) {  // beyond a pole nothing is meant
        if (slope) *slope = -1;
        return std::numeric_limits<double>::infinity();
    }
    if (slope) *slope = (n + dn) / d - n * dd / (d * d);
    return t * n / d;
}

double LensModel::find_turn() const {
    // The first place where the slope vanishes is looked for on a fine scan and then bisected: cheap, and it cannot miss a place
    // that matters, within 80 degrees for the rectilinear models and 180 for the equidistant one.
    const double limit = kind_ == LensModelKind::equidistant ? pi : 6.0, step = 0.01;
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
    return kind_ == LensModelKind::equidistant ? pi : std::numeric_limits<double>::infinity();
}

double LensModel::bent_radius(double ideal_radius) const { return along(kind_ == LensModelKind::equidistant ? std::atan(ideal_radius) : ideal_radius); }

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

std::optional<Vec3> LensModel::ray(const Vec2& bent) const {
    // Decentring moves a point by a few thousandths of its radius, so it is undone by repeated correction of the radial target.
    const Vec2 axis = this->axis();
    Vec2 target = bent - axis;
    Vec3 ray = Vec3::UnitZ();
    for (int i = 0; i < 60; ++i) {
        const double r = target.norm();
        const std::optional<double> t = undo_radial(r);
        if (!t) return std::nullopt;
        if (kind_ == LensModelKind::equidistant) {
            const Vec2 azimuth = r > 0 ? Vec2(target / r) : Vec2(1, 0);
            ray = {azimuth.x() * std::sin(*t), azimuth.y() * std::sin(*t), std::cos(*t)};
        } else {
            const Vec2 xy = axis + (r > 0 ? Vec2(target * (*t / r)) : Vec2(0, 0));
            ray = {xy.x(), xy.y(), 1};
        }
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
