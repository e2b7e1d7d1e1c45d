// SPDX-License-Identifier: GPL-3.0-or-later
#include "scene/edge_fit.h"

#include <Eigen/Core>
#include <algorithm>

#include "base/angle.h"
#include "optics/linear.h"

namespace optrel {

namespace {

/// The share of the high level as a function of the distance in units of the blur, and its slope.
struct Share {
    double value, slope;
};
Share share_at(EdgeShape shape, double z) {
    const double bell = std::exp(-0.5 * z * z);
    if (shape == EdgeShape::ridge) return {bell, -z * bell};
    return {0.5 * std::erfc(-z / std::sqrt(2.0)), bell / std::sqrt(2 * pi)};
}

}  // namespace

std::vector<EdgeSample> samples_along(const MeasuringPicture& picture, Channel channel, const Vec2& from,
                                      const Vec2& to, double half_width) {
    std::vector<EdgeSample> out;
    const Vec2 middle = 0.5 * (from + to), along = (to - from).normalized(), across(-along.y(), along.x());
    const double half_length = 0.5 * (to - from).norm();
    const double reach_u = std::abs(along.x()) * half_length + std::abs(across.x()) * half_width,
                 reach_v = std::abs(along.y()) * half_length + std::abs(across.y()) * half_width;
    for (const SamplePlane& p : picture.planes) {
        if (p.channel != channel) continue;
        const auto first = [&](double place, double origin) {
            return std::max(0, static_cast<int>(std::ceil((place - origin) / p.step)));
        };
        const auto last = [&](double place, double origin, int count) {
            return std::min(count - 1, static_cast<int>(std::floor((place - origin) / p.step)));
        };
        for (int j = first(middle.y() - reach_v, p.v0); j <= last(middle.y() + reach_v, p.v0, p.values.rows); ++j)
            for (int i = first(middle.x() - reach_u, p.u0); i <= last(middle.x() + reach_u, p.u0, p.values.cols); ++i) {
                const Vec2 s = Vec2(p.u0 + i * p.step, p.v0 + j * p.step) - middle;
                const double a = along.dot(s), c = across.dot(s);
                if (std::abs(a) > half_length || std::abs(c) > half_width) continue;
                const float value = p.values(j, i);
                out.push_back({a, c, value});
            }
    }
    return out;
}

namespace {

double mean_where(const std::vector<EdgeSample>& samples, double low, double high) {
    double sum = 0, n = 0;
    for (const EdgeSample& s : samples)
        if (s.across >= low && s.across <= high) {
            sum += s.value;
            ++n;
        }
    return n > 0 ? sum / n : 0;
}

}  // namespace

StepFit fit_step(const std::vector<EdgeSample>& samples, double half_length, double half_width, EdgeShape shape) {
    const bool ridge = shape == EdgeShape::ridge;
    StepFit fit;
    fit.half_length = half_length;
    fit.shape = shape;
    const double left = mean_where(samples, -half_width, -0.5 * half_width),
                 right = mean_where(samples, 0.5 * half_width, half_width);
    fit.p << left, right, 0, 0, 0, 0;
    if (ridge) fit.p << 0.5 * (left + right), mean_where(samples, -1, 1), 0, 0, 0, 0.2;
    using Vector = Eigen::Matrix<double, 6, 1>;
    const auto cost = [&](const StepFit& f, Eigen::Matrix<double, 6, 6>* a, Vector* b) {
        double sum = 0;
        if (a) a->setZero();
        if (b) b->setZero();
        const double blur = std::exp(f.p(5));
        for (const EdgeSample& s : samples) {
            const double z = (s.across - f.place(s.along)) / blur, t = s.along / half_length;
            const Share share = share_at(shape, z);
            const double r = f.p(0) + (f.p(1) - f.p(0)) * share.value - s.value;
            sum += r * r;
            if (!a) continue;
            const double slope = share.slope * (f.p(1) - f.p(0));
            Vector by;
            by << 1 - share.value, share.value, -slope / blur, -slope / blur * t, -slope / blur * t * t, -slope * z;
            *a += by * by.transpose();
            *b += by * r;
        }
        return sum;
    };
    double damping = 1e-3, now = cost(fit, nullptr, nullptr);
    for (int round = 0; round < 40; ++round) {
        Eigen::Matrix<double, 6, 6> a;
        Vector b;
        now = cost(fit, &a, &b);
        bool better = false;
        for (int attempt = 0; attempt < 8 && !better; ++attempt) {
            Eigen::Matrix<double, 6, 6> damped = a;
            damped.diagonal() += damping * a.diagonal() + 1e-12 * Vector::Ones();
            StepFit next = fit;
            next.p -= solve_symmetric(damped, b);
            next.p(5) = std::clamp(next.p(5), std::log(0.15), std::log(8.0));
            const double after = cost(next, nullptr, nullptr);
            better = after < now;
            if (better) {
                const bool settled = now - after < 1e-9 * now;
                fit = next;
                damping = std::max(1e-9, damping / 5);
                if (settled) round = 1000;
            } else {
                damping *= 6;
            }
        }
        if (!better) break;
    }
    fit.rms = std::sqrt(cost(fit, nullptr, nullptr) / std::max<std::size_t>(1, samples.size()));
    return fit;
}

std::vector<Vec2> places_of_pieces(const std::vector<EdgeSample>& samples, const StepFit& fit, double piece_px) {
    const int count = std::max(2, static_cast<int>(2 * fit.half_length / piece_px));
    std::vector<std::vector<const EdgeSample*>> pieces(count);
    for (const EdgeSample& s : samples) {
        const int k = static_cast<int>((s.along / fit.half_length + 1) / 2 * count);
        pieces[std::clamp(k, 0, count - 1)].push_back(&s);
    }
    std::vector<Vec2> out;
    const double blur = fit.blur();
    for (int k = 0; k < count; ++k) {
        constexpr std::size_t enough = 12;
        if (pieces[k].size() < enough) continue;
        const double middle = ((k + 0.5) / count * 2 - 1) * fit.half_length;
        Vec3 p(fit.p(0), fit.p(1), 0);  // dark, light, and the distance of the piece from the line
        bool settled = false;
        for (int round = 0; round < 12 && !settled; ++round) {
            Eigen::Matrix3d a = 1e-9 * Eigen::Matrix3d::Identity();
            Vec3 b = Vec3::Zero();
            for (const EdgeSample* s : pieces[k]) {
                const Share share = share_at(fit.shape, (s->across - fit.place(s->along) - p(2)) / blur);
                const Vec3 by(1 - share.value, share.value, -share.slope * (p(1) - p(0)) / blur);
                a += by * by.transpose();
                b += by * (p(0) + (p(1) - p(0)) * share.value - s->value);
            }
            const Vec3 change = solve_symmetric(a, b);
            if (!change.allFinite()) break;
            p -= change;
            settled = std::abs(change(2)) < 1e-4;
        }
        if (settled && std::abs(p(2)) < 1.5 && (p(1) - p(0)) / fit.step() > 0.5)
            out.emplace_back(middle, fit.place(middle) + p(2));
    }
    return out;
}

}  // namespace optrel
