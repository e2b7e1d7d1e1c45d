#include "optics/lens_model.h"

#include <fmt/format.h>

#include <Eigen/LU>
#include <cmath>
#include <limits>

#include "base/error.h"

namespace optrel {

std::string to_string(LensModelKind) { return "radial-tangential"; }

LensModelKind lens_model_kind(const std::string& name) {
    if (name == "radial-tangential") return LensModelKind::radial_tangential;
    throw input_error(fmt::format("The lens model '{}' is not known to this version; use a newer Optrel or solve the lens again.", name));
}

double LensModel::monotonic_radius() const {
    // d/dr [r (1 + k1 r^2 + k2 r^4 + k3 r^6)] = 1 + 3 k1 q + 5 k2 q^2 + 7 k3 q^3 with q = r^2. The first positive root is
    // looked for on a fine scan and then bisected: cheap, and it cannot miss a root that matters within 80 degrees.
    const auto slope = [&](double r) {
        const double q = r * r;
        return 1 + q * (3 * c_[0] + q * (5 * c_[1] + q * 7 * c_[2]));
    };
    const double limit = 6.0, step = 0.01;
    for (double r = step; r <= limit; r += step) {
        if (slope(r) > 0) continue;
        double low = r - step, high = r;
        for (int i = 0; i < 60; ++i) {
            const double middle = 0.5 * (low + high);
            (slope(middle) > 0 ? low : high) = middle;
        }
        return low;
    }
    return std::numeric_limits<double>::infinity();
}

std::optional<Vec2> LensModel::unbend(const Vec2& bent_in) const {
    const Vec2 axis(c_[5], c_[6]), bent = bent_in - axis;
    Vec2 xy = bent;  // from the axis
    // A damped radial start keeps Newton on the branch that holds the middle of the picture.
    for (int i = 0; i < 8; ++i) {
        const double q = xy.squaredNorm();
        const double radial = 1 + q * (c_[0] + q * (c_[1] + q * c_[2]));
        if (radial < 0.1) return std::nullopt;
        xy = bent / radial;
    }
    for (int i = 0; i < 30; ++i) {
        const Vec2 miss = bend(xy + axis) - bent_in;
        if (miss.norm() < 1e-14) break;
        const double x = xy.x(), y = xy.y(), q = xy.squaredNorm();
        const double radial = 1 + q * (c_[0] + q * (c_[1] + q * c_[2]));
        const double dradial = 2 * (c_[0] + q * (2 * c_[1] + q * 3 * c_[2]));  // d radial / d q * 2
        Eigen::Matrix2d jacobian;
        jacobian << radial + x * x * dradial + 2 * c_[3] * y + 6 * c_[4] * x, x * y * dradial + 2 * c_[3] * x + 2 * c_[4] * y,
            x * y * dradial + 2 * c_[3] * x + 2 * c_[4] * y, radial + y * y * dradial + 6 * c_[3] * y + 2 * c_[4] * x;
        if (std::abs(jacobian.determinant()) < 1e-9) return std::nullopt;
        xy -= jacobian.inverse() * miss;
        if (!xy.allFinite() || xy.norm() > 1e3) return std::nullopt;
    }
    if ((bend(xy + axis) - bent_in).norm() > 1e-9 || xy.norm() > monotonic_radius()) return std::nullopt;
    return xy + axis;
}

}  // namespace optrel
