// SPDX-License-Identifier: GPL-3.0-or-later
#include "optics/placement.h"

#include <Eigen/LU>
#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>

#include "base/choose.h"
#include "optics/linear.h"

namespace optrel {
namespace {

// The three axes of a lens setting in the units of the interpolation, and the tolerance within which values count as
// equal.
enum Axis { focal, aperture, distance };
constexpr int axes = 3;
constexpr double same[axes] = {0.01, 1.0 / 6, 0.05};  // ln of the focal length, stops, dioptres
// A value that is the only one measured on an axis is used up to this distance.
constexpr double serves[axes] = {0.035, 0.5, 0.7};
// Relative change of a value per unit of an axis on which nothing was measured, from experience with lenses:
// displacements change about as the reciprocal of the focal length, by a twentieth per dioptre, and hardly with the
// aperture.
constexpr double habit[axes] = {1.0, 0.01, 0.05};

constexpr double length = 0.9;     ///< of the Gaussian process, in ln f
constexpr double curvature = 1.5;  ///< usual change of the slope over a unit of ln f, in slopes
/// Compensates that a process whose variance comes from few values looks smoother than it is. Found on lenses whose
/// distortion varies with f, 1/f, 1/f^2, ln f, its square and a wave, at four and five settings
/// (tests/optics/interpolate_test.cpp checks the result).
constexpr double few_values = 2.1;
constexpr double prior_weight = 1;  ///< weight of that experience, in measured values

double coordinate(const LensSetting& s, int axis) {
    switch (axis) {
        case focal: return s.focal_mm > 0 ? std::log(s.focal_mm) : std::nan("");
        case aperture: return s.aperture > 0 ? 2 * std::log2(s.aperture) : std::nan("");
        default: return s.distance_m > 0 ? 1 / s.distance_m : std::nan("");
    }
}

/// Adds a sum, multiplied by a factor, to another.
void add(NodeSum& to, const NodeSum& sum, double factor) {
    for (const auto& [i, w] : sum) {
        const auto it = std::find_if(to.begin(), to.end(), [i = i](const auto& entry) { return entry.first == i; });
        if (it == to.end())
            to.emplace_back(i, factor * w);
        else
            it->second += factor * w;
    }
}

NodeSum scaled(const NodeSum& sum, double factor) {
    NodeSum out;
    add(out, sum, factor);
    return out;
}

struct Partial {
    NodeSum weights;
    std::vector<NodeSum> doubts;
    bool between = false, outside = false;
};

/// The weighted combination of several places along an axis, with their uncertainties.
Partial combined(const std::vector<Partial>& parts, const std::vector<double>& weights) {
    Partial out;
    for (std::size_t g = 0; g < parts.size(); ++g) {
        if (weights[g] == 0) continue;
        add(out.weights, parts[g].weights, weights[g]);
        for (const NodeSum& d : parts[g].doubts) out.doubts.push_back(scaled(d, weights[g]));
        out.between = out.between || parts[g].between;
        out.outside = out.outside || parts[g].outside;
    }
    return out;
}

class Placer {
public:
    Placer(const std::vector<ProfileNode>& nodes, const LensSetting& at) : nodes_(nodes), at_(at) {}

    /// Interpolates along one axis between groups of nodes that share a value on it, then within each group along the
    /// next axis, so the nodes need not form a full grid. The order is focal length, distance, aperture, because
    /// distortion hardly depends on the last.
    Partial place(const std::vector<int>& among, int step) const {
        if (step == axes) return {{{among.front(), 1.0}}, {}, false, false};
        const int axis = std::array{focal, distance, aperture}[step];
        std::vector<int> unknown;
        const auto groups = grouped(among, axis, unknown);
        if (groups.empty()) return place(unknown, step + 1);
        const double wanted = coordinate(at_, axis);
        if (std::isnan(wanted)) return place(groups.size() == 1 ? groups.front().second : among, step + 1);
        std::vector<double> x;
        for (const auto& g : groups) x.push_back(g.first);
        const auto nearest = std::min_element(groups.begin(), groups.end(), [&](const auto& a, const auto& b) {
            return std::abs(a.first - wanted) < std::abs(b.first - wanted);
        });
        if (std::abs(nearest->first - wanted) <= same[axis]) return place(nearest->second, step + 1);
        std::vector<Partial> parts;
        for (const auto& g : groups) parts.push_back(place(g.second, step + 1));
        if (wanted < x.front() || wanted > x.back()) return beyond(parts, x, wanted, axis);
        Partial out = axis == focal ? kriged(parts, x, wanted) : linear(parts, x, wanted);
        out.between = true;
        return out;
    }

private:
    std::vector<std::pair<double, std::vector<int>>> grouped(const std::vector<int>& among, int axis,
                                                             std::vector<int>& unknown) const {
        std::vector<std::pair<double, std::vector<int>>> groups;
        for (const int i : among) {
            const double v = coordinate(nodes_[i].setting, axis);
            if (std::isnan(v)) {
                unknown.push_back(i);
                continue;
            }
            const auto it = std::find_if(groups.begin(), groups.end(),
                                         [&](const auto& g) { return std::abs(g.first - v) < same[axis]; });
            if (it == groups.end())
                groups.push_back({v, {i}});
            else
                it->second.push_back(i);
        }
        std::sort(groups.begin(), groups.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
        return groups;
    }

    static void add_doubts(Partial& out, const std::vector<Partial>& parts,
                           const std::vector<std::vector<double>>& doubts) {
        for (const auto& d : doubts) {
            NodeSum sum;
            for (std::size_t g = 0; g < parts.size(); ++g) add(sum, parts[g].weights, d[g]);
            out.doubts.push_back(std::move(sum));
        }
    }

    static Partial kriged(const std::vector<Partial>& parts, const std::vector<double>& x, double wanted) {
        const Kriged k = krige(x, wanted);
        Partial out = combined(parts, k.weights);
        add_doubts(out, parts, k.doubts);
        return out;
    }

    static Partial linear(const std::vector<Partial>& parts, const std::vector<double>& x, double wanted) {
        const std::size_t upper = std::upper_bound(x.begin(), x.end(), wanted) - x.begin(), lower = upper - 1;
        const double t = (wanted - x[lower]) / (x[upper] - x[lower]);
        std::vector<double> weights(x.size(), 0), doubt(x.size(), 0);
        weights[lower] = 1 - t;
        weights[upper] = t;
        // Half of the difference between the two values, at most, as curvature.
        doubt[upper] = 0.5 * t * (1 - t);
        doubt[lower] = -doubt[upper];
        Partial out = combined(parts, weights);
        add_doubts(out, parts, {doubt});
        return out;
    }

    /// Uses the value at the edge. Its uncertainty is the extrapolated change of the measured values, or the usual
    /// change of lenses.
    static Partial beyond(const std::vector<Partial>& parts, const std::vector<double>& x, double wanted, int axis) {
        const std::size_t edge = wanted < x.front() ? 0 : x.size() - 1;
        const double away = std::abs(wanted - x[edge]);
        std::vector<double> weights(x.size(), 0);
        weights[edge] = 1;
        Partial out = combined(parts, weights);
        out.outside = x.size() > 1 || away > serves[axis];
        std::vector<double> doubt(x.size(), 0);
        if (x.size() == 1) {
            doubt[0] = habit[axis] * away;
            add_doubts(out, parts, {doubt});
        } else if (axis == focal) {
            Kriged k = krige(x, wanted);
            k.weights[edge] -= 1;
            k.doubts.push_back(k.weights);
            add_doubts(out, parts, k.doubts);
        } else {
            const std::size_t next = edge == 0 ? 1 : edge - 1;
            doubt[edge] = away / std::abs(x[edge] - x[next]);
            doubt[next] = -doubt[edge];
            add_doubts(out, parts, {doubt});
        }
        return out;
    }

    const std::vector<ProfileNode>& nodes_;
    LensSetting at_;
};

}  // namespace

Kriged krige(const std::vector<double>& x, double at) {
    const int n = static_cast<int>(x.size());
    const auto kernel = [](double a, double b) { return std::exp(-(a - b) * (a - b) / (2 * length * length)); };
    const double middle = std::accumulate(x.begin(), x.end(), 0.0) / n;
    Eigen::MatrixXd k(n, n), trend(n, 2);
    Eigen::VectorXd to(n);
    for (int i = 0; i < n; ++i) {
        for (int j = 0; j < n; ++j) k(i, j) = kernel(x[i], x[j]) + (i == j ? 1e-9 : 0);
        trend.row(i) << 1, x[i] - middle;
        to[i] = kernel(x[i], at);
    }
    const Eigen::MatrixXd inverse = inverse_of(k), by_trend = inverse * trend;
    const Eigen::Matrix2d information = trend.transpose() * by_trend, normal = information.inverse();
    const Eigen::VectorXd own = inverse * to;
    const Eigen::Vector2d left = Eigen::Vector2d(1, at - middle) - by_trend.transpose() * to;
    const Eigen::VectorXd weights = own + by_trend * (normal * left);
    const double variance = std::max(0.0, 1 - to.dot(own) + left.dot(normal * left));
    Kriged out;
    out.weights.assign(weights.begin(), weights.end());
    // The variance of the process, from the values: y' A y over its degrees of freedom, as independent combinations of
    // the values.
    const Eigen::MatrixXd by_normal = by_trend * normal, a = inverse - by_normal * by_trend.transpose();
    const double freedom = n - 2 + prior_weight;
    const SymmetricModes modes = symmetric_modes((a + a.transpose()) / 2);
    for (int m = 2; m < n; ++m) {  // two eigenvalues are zero: constants and slopes
        const double size = few_values * std::sqrt(std::max(0.0, modes.values[m]) * variance / freedom);
        std::vector<double> d(n);
        for (int i = 0; i < n; ++i) d[i] = size * modes.vectors(i, m);
        out.doubts.push_back(std::move(d));
    }
    // Experience with lenses: curvature grows with the slope. A process of unit variance has a curvature of sqrt(3) /
    // l^2.
    const Eigen::Matrix2d moments = trend.transpose() * trend, line = moments.inverse();
    std::vector<double> slope(n);
    const double size = curvature * length * length / std::sqrt(3.0) * std::sqrt(variance * prior_weight / freedom);
    for (int i = 0; i < n; ++i) slope[i] = size * line.row(1).dot(trend.row(i));
    out.doubts.push_back(std::move(slope));
    return out;
}

bool same_setting(const LensSetting& a, const LensSetting& b) {
    for (int axis = 0; axis < axes; ++axis) {
        const double u = coordinate(a, axis), v = coordinate(b, axis);
        if (std::isnan(u) != std::isnan(v) || std::abs(u - v) > same[axis]) return false;
    }
    return true;
}

PlacedSetting place_setting(const std::vector<ProfileNode>& nodes, const LensSetting& at) {
    std::vector<int> all(nodes.size());
    std::iota(all.begin(), all.end(), 0);
    Partial placed = Placer(nodes, at).place(all, 0);
    PlacedSetting out;
    for (const auto& [i, w] : placed.weights)
        if (w != 0) out.weights.emplace_back(i, w);
    out.doubts = std::move(placed.doubts);
    out.placement = first_of<Placement>(
        {{placed.outside, Placement::extrapolated}, {placed.between, Placement::between}}, Placement::measured);
    return out;
}

}  // namespace optrel
