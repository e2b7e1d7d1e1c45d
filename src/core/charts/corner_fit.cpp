// SPDX-License-Identifier: GPL-3.0-or-later
#include "charts/corner_fit.h"

#include <Eigen/Cholesky>
#include <Eigen/LU>
#include <algorithm>
#include <cmath>

namespace optrel {
namespace {

enum { CU, CV, ANGLE1, ANGLE2, SIGMA, BASE, AMPLITUDE, SLOPE_U, SLOPE_V, PARAMETERS };
using Parameters = Eigen::Matrix<double, PARAMETERS, 1>;
using Normal = Eigen::Matrix<double, PARAMETERS, PARAMETERS>;

struct Sample {
    double u, v, value;
};

struct Model {
    double value;
    Parameters derivative;
};

/// The directions of the two edges, common to all samples.
struct Edges {
    double c1, s1, c2, s2;
    explicit Edges(const Parameters& p)
        : c1(std::cos(p[ANGLE1])), s1(std::sin(p[ANGLE1])), c2(std::cos(p[ANGLE2])), s2(std::sin(p[ANGLE2])) {}
};

Model evaluate(const Parameters& p, const Edges& edges, const CornerGuess& guess, double u, double v) {
    constexpr double root_half = 0.70710678118654752, two_over_root_2pi = 0.79788456080286536;
    const double qu = u - p[CU], qv = v - p[CV];
    const auto& [c1, s1, c2, s2] = edges;
    const double t1 = c1 * qu + s1 * qv, t2 = c2 * qu + s2 * qv;
    const double m1 = -s1 * qu + c1 * qv, m2 = -s2 * qu + c2 * qv;
    const double d1 = m1 - 0.5 * guess.curvature1 * t1 * t1, d2 = m2 - 0.5 * guess.curvature2 * t2 * t2;
    const double sigma = p[SIGMA], x1 = d1 / sigma, x2 = d2 / sigma;
    const double e1 = std::erf(root_half * x1), e2 = std::erf(root_half * x2);
    const double g1 = two_over_root_2pi * std::exp(-0.5 * x1 * x1), g2 = two_over_root_2pi * std::exp(-0.5 * x2 * x2);
    const double level = p[BASE] + p[AMPLITUDE] * e1 * e2;
    const double light = 1 + p[SLOPE_U] * qu + p[SLOPE_V] * qv;
    const double by_d1 = light * p[AMPLITUDE] * e2 * g1 / sigma, by_d2 = light * p[AMPLITUDE] * e1 * g2 / sigma;
    // d dk / d corner and d dk / d angle
    const double d1u = s1 + guess.curvature1 * t1 * c1, d1v = -c1 + guess.curvature1 * t1 * s1;
    const double d2u = s2 + guess.curvature2 * t2 * c2, d2v = -c2 + guess.curvature2 * t2 * s2;
    Model out;
    out.value = level * light;
    out.derivative[CU] = by_d1 * d1u + by_d2 * d2u - level * p[SLOPE_U];
    out.derivative[CV] = by_d1 * d1v + by_d2 * d2v - level * p[SLOPE_V];
    out.derivative[ANGLE1] = by_d1 * (-t1 - guess.curvature1 * t1 * m1);
    out.derivative[ANGLE2] = by_d2 * (-t2 - guess.curvature2 * t2 * m2);
    out.derivative[SIGMA] = -(by_d1 * x1 + by_d2 * x2);
    out.derivative[BASE] = light;
    out.derivative[AMPLITUDE] = light * e1 * e2;
    out.derivative[SLOPE_U] = level * qu;
    out.derivative[SLOPE_V] = level * qv;
    return out;
}

/// The samples in the two bands along the edges, out to the half length.
std::vector<Sample> gather(const std::vector<const SamplePlane*>& planes, const CornerGuess& g, double& clipped) {
    std::vector<Sample> samples;
    Eigen::Matrix2d edges;
    edges << g.edge1, g.edge2;
    const Eigen::Matrix2d along = edges.inverse();
    const Vec2 n1(-g.edge1.y(), g.edge1.x()), n2(-g.edge2.y(), g.edge2.x());
    const double band = std::min(3.2 * g.blur_px + 1.5, std::max(1.5, g.band_limit)), reach = 1.45 * g.half_length;
    int all = 0, at_white = 0;
    for (const SamplePlane* plane : planes) {
        const int left = std::max(0, static_cast<int>(std::ceil((g.position.x() - reach - plane->u0) / plane->step)));
        const int right = std::min(plane->values.cols - 1,
                                   static_cast<int>(std::floor((g.position.x() + reach - plane->u0) / plane->step)));
        const int top = std::max(0, static_cast<int>(std::ceil((g.position.y() - reach - plane->v0) / plane->step)));
        const int bottom = std::min(plane->values.rows - 1,
                                    static_cast<int>(std::floor((g.position.y() + reach - plane->v0) / plane->step)));
        for (int j = top; j <= bottom; ++j)
            for (int i = left; i <= right; ++i) {
                const Vec2 p(plane->u0 + i * plane->step, plane->v0 + j * plane->step);
                const Vec2 q = p - g.position;
                const double a1 = std::abs(n1.dot(q)), a2 = std::abs(n2.dot(q));
                if (std::min(a1, a2) > band) continue;
                const Vec2 t = along * q;
                if (std::abs(t.x()) > g.half_length || std::abs(t.y()) > g.half_length) continue;
                const double value = plane->values(j, i);
                ++all;
                if (value > 0.985) {
                    ++at_white;
                    continue;
                }
                samples.push_back({p.x(), p.y(), value});
            }
    }
    clipped = all ? at_white / double(all) : 0;
    return samples;
}

/// One corner's weighted least squares (Levenberg 1944, Marquardt 1963).
class CornerSolve {
public:
    CornerSolve(const CornerGuess& guess, std::vector<Sample> samples) : guess_(guess), samples_(std::move(samples)) {
        p_ << guess.position.x(), guess.position.y(), std::atan2(guess.edge1.y(), guess.edge1.x()),
            std::atan2(guess.edge2.y(), guess.edge2.x()), guess.blur_px, 0, 0, 0, 0;
    }

    /// Estimates base and amplitude from the signs of the sectors by a linear fit. False when the samples show no
    /// saddle.
    bool start() {
        double n = 0, s1 = 0, s2 = 0, y = 0, ys = 0;
        Parameters probe = p_;
        probe[AMPLITUDE] = 1;
        const Edges edges(probe);
        for (const Sample& s : samples_) {
            const double saddle = evaluate(probe, edges, guess_, s.u, s.v).value;
            n += 1;
            s1 += saddle;
            s2 += saddle * saddle;
            y += s.value;
            ys += s.value * saddle;
        }
        const double det = n * s2 - s1 * s1;
        if (std::abs(det) < 1e-9) return false;
        p_[AMPLITUDE] = (n * ys - s1 * y) / det;
        p_[BASE] = (y - p_[AMPLITUDE] * s1) / n;
        return std::abs(p_[AMPLITUDE]) >= 1e-4;
    }

    /// False when the fit diverges.
    bool minimise(int rounds) {
        double lambda = 1e-3;
        Parameters gradient;
        double cost = linearise(p_, normal_, gradient);
        for (int round = 0; round < rounds; ++round) {
            Normal damped = normal_;
            damped.diagonal() *= 1 + lambda;
            const Parameters step = damped.ldlt().solve(gradient);
            if (!step.allFinite()) return false;
            Parameters next = p_ + step;
            next[SIGMA] = std::clamp(next[SIGMA], 0.15, 8.0);
            Normal next_normal;
            Parameters next_gradient;
            const double next_cost = linearise(next, next_normal, next_gradient);
            if (next_cost > cost * (1 + 1e-12)) {
                lambda *= 10;
                if (lambda > 1e6) break;
                continue;
            }
            const bool settled = std::hypot(step[CU], step[CV]) < 2e-5;
            p_ = next;
            normal_ = next_normal;
            gradient = next_gradient;
            cost = next_cost;
            lambda = std::max(1e-9, lambda * 0.1);
            if (settled) break;
        }
        return true;
    }

    /// Estimates the photon noise: the variance on the bright and on the dark side, which then weights the samples.
    void estimate_noise() {
        const Edges edges(p_);
        double sum[2] = {0, 0};
        int count[2] = {0, 0};
        double all = 0;
        for (const Sample& s : samples_) {
            const double value = evaluate(p_, edges, guess_, s.u, s.v).value, r = s.value - value;
            const int side = value > p_[BASE];
            sum[side] += r * r;
            ++count[side];
            all += r * r;
        }
        const double n = static_cast<double>(samples_.size());
        mean_square_ = all / n;
        const double scale = n / std::max(1.0, n - int(PARAMETERS));
        const auto variance = [&](int side) {
            const double own =
                count[side] > 8 ? std::max(sum[side] / count[side] * scale, 0.05 * mean_square_) : mean_square_;
            return std::max(own, 1e-10);
        };
        variance_dark_ = variance(0);
        variance_bright_ = variance(1);
    }

    void store(CornerFit& fit) const {
        const Normal inverse = normal_.ldlt().solve(Normal::Identity());
        fit.position = {p_[CU], p_[CV]};
        fit.covariance = inverse.topLeftCorner<2, 2>();
        fit.edge1 = {std::cos(p_[ANGLE1]), std::sin(p_[ANGLE1])};
        fit.edge2 = {std::cos(p_[ANGLE2]), std::sin(p_[ANGLE2])};
        fit.blur_px = p_[SIGMA];
        fit.amplitude = std::abs(p_[AMPLITUDE]);
        fit.base = p_[BASE];
        fit.residual = std::sqrt(mean_square_) / fit.amplitude;
    }

private:
    double weight(double value) const {
        const double a = std::abs(p_[AMPLITUDE]);
        const double t = std::clamp((value - (p_[BASE] - a)) / (2 * a), 0.0, 1.0);
        return 1 / (variance_dark_ + t * (variance_bright_ - variance_dark_));
    }

    /// The cost, with the normal equations.
    double linearise(const Parameters& at, Normal& normal, Parameters& gradient) const {
        double cost = 0;
        normal.setZero();
        gradient.setZero();
        const Edges edges(at);
        for (const Sample& s : samples_) {
            const Model m = evaluate(at, edges, guess_, s.u, s.v);
            const double r = s.value - m.value, w = weight(m.value);
            cost += w * r * r;
            const Parameters weighted = w * m.derivative;
            // Fills the lower triangle column by column, in runs that the compiler can vectorise.
            for (int c = 0; c < PARAMETERS; ++c)
                for (int k = c; k < PARAMETERS; ++k) normal(k, c) += weighted[c] * m.derivative[k];
            gradient += r * weighted;
        }
        normal = Normal(normal.selfadjointView<Eigen::Lower>());
        return cost;
    }

    const CornerGuess& guess_;
    std::vector<Sample> samples_;
    Parameters p_;
    Normal normal_;
    double variance_bright_ = 1, variance_dark_ = 1, mean_square_ = 0;
};

double crossing(const Vec2& edge1, const Vec2& edge2) {
    return std::abs(edge1.x() * edge2.y() - edge1.y() * edge2.x());
}

bool believable(const CornerFit& fit, const CornerGuess& guess) {
    const double moved = (fit.position - guess.position).norm();
    return fit.covariance.allFinite() && fit.covariance(0, 0) > 0 && fit.covariance(1, 1) > 0 &&
           moved < std::max(2.5, 0.4 * guess.half_length) && fit.blur_px > 0.16 && fit.blur_px < 7.9 &&
           std::sqrt(fit.covariance.trace() / 2) < 0.6 && fit.residual < 0.6 && crossing(fit.edge1, fit.edge2) > 0.15;
}

}  // namespace

CornerFit fit_corner(const std::vector<const SamplePlane*>& planes, const CornerGuess& guess) {
    CornerFit fit;
    if (!(crossing(guess.edge1, guess.edge2) > 0.2)) return fit;
    std::vector<Sample> samples = gather(planes, guess, fit.clipped);
    if (samples.size() < 30) return fit;
    CornerSolve solve(guess, std::move(samples));
    if (!solve.start() || !solve.minimise(12)) return fit;
    solve.estimate_noise();
    if (!solve.minimise(8)) return fit;
    solve.store(fit);
    fit.ok = believable(fit, guess);
    return fit;
}

}  // namespace optrel
