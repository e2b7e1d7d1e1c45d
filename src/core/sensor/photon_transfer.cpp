// SPDX-License-Identifier: GPL-3.0-or-later
#include "sensor/photon_transfer.h"

#include <fmt/format.h>

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>

#include "base/error.h"
#include "base/median.h"
#include "sensor/colour_names.h"

namespace optrel {
namespace {

constexpr double usable_share = 0.7, outlier_sigmas = 6;

/// One block of one pair as an equation of the fit: variance = slope x + floor y.
struct Equation {
    double x, y, variance;
    double smooth_x;  ///< for the weight
    bool used = true;
};

/// Signal of a block in a - k b, A + k^2 B, as the mean of 3 x 3 blocks where the border allows it. Weights are
/// computed from it: the noise of a single block's mean would make weights and residuals depend on each other.
double signal_at(const PairPlane& plane, int i, int j, double k) {
    const int reach = i > 0 && j > 0 && i + 1 < plane.across && j + 1 < plane.down ? 1 : 0;
    double sum = 0;
    for (int y = j - reach; y <= j + reach; ++y)
        for (int x = i - reach; x <= i + reach; ++x) {
            const PairBlock& block = plane.blocks[static_cast<std::size_t>(y * plane.across + x)];
            if (block.clipped) {
                const PairBlock& own = plane.blocks[static_cast<std::size_t>(j * plane.across + i)];
                return own.mean_a + k * k * own.mean_b;
            }
            sum += block.mean_a + k * k * block.mean_b;
        }
    return sum / ((2 * reach + 1) * (2 * reach + 1));
}

std::vector<Equation> equations_of(const std::vector<TransferPair>& pairs, Channel channel) {
    std::vector<Equation> out;
    for (const TransferPair& pair : pairs)
        for (const PairPlane& plane : pair.planes) {
            if (plane.channel != channel) continue;
            // Dark frames have no light whose strength could change.
            const double k = pair.dark ? 1 : plane.ratio;
            for (int j = 0; j < plane.down; ++j)
                for (int i = 0; i < plane.across; ++i) {
                    const PairBlock& block = plane.blocks[static_cast<std::size_t>(j * plane.across + i)];
                    if (block.clipped || block.mean_a > usable_share * pair.white) continue;
                    // Dark frames have no signal: what their means show is noise.
                    out.push_back({pair.dark ? 0 : block.mean_a + k * k * block.mean_b, 1 + k * k,
                                   PairPlane::difference_variance(block, k),
                                   pair.dark ? 0 : signal_at(plane, i, j, k)});
                }
        }
    return out;
}

struct Fit {
    Eigen::Vector2d terms = Eigen::Vector2d::Zero();  ///< slope, floor
    Eigen::Matrix2d covariance = Eigen::Matrix2d::Zero();
    double chi_square = 0;
    int used = 0;
};

/// Iteratively reweighted least squares with weights by the model: weights by the observed variances would favour the
/// blocks that came out too small.
Fit fitted(std::vector<Equation>& equations) {
    Fit out;
    std::vector<double> ratios;
    for (const Equation& e : equations) ratios.push_back(e.variance / e.y);
    std::nth_element(ratios.begin(), ratios.begin() + static_cast<long>(ratios.size() / 2), ratios.end());
    out.terms = {0, std::max(1e-3, ratios[ratios.size() / 2])};
    constexpr double relative_square = 2.0 / (pair_block_samples - 1);
    for (int round = 0; round < 12; ++round) {
        Eigen::Matrix2d normal = Eigen::Matrix2d::Zero();
        Eigen::Vector2d right = Eigen::Vector2d::Zero();
        double chi_square = 0;
        int used = 0;
        for (Equation& e : equations) {
            const double model = out.terms[0] * e.x + out.terms[1] * e.y;
            const double expected = std::max(1e-6, out.terms[0] * e.smooth_x + out.terms[1] * e.y);
            const double weight = 1 / (relative_square * expected * expected);
            const double residual = e.variance - model;
            e.used = round < 3 || residual * residual * weight < outlier_sigmas * outlier_sigmas;
            if (!e.used) continue;
            const Eigen::Vector2d row(e.x, e.y);
            normal += weight * row * row.transpose();
            right += weight * e.variance * row;
            chi_square += weight * residual * residual;
            ++used;
        }
        const Eigen::Vector2d before = out.terms;
        out.terms = normal.ldlt().solve(right);
        out.used = used;
        out.chi_square = chi_square / std::max(1, used - 2);
        out.covariance = normal.inverse() * std::max(1.0, out.chi_square);
        if (round > 4 && (out.terms - before).norm() < 1e-9 * before.norm()) break;
    }
    return out;
}

/// Mean and standard error of a robust set of block values; values beyond six of their deviations are left out.
MeasuredFigure robust_mean(std::vector<double> values) {
    if (values.size() < 3) return {};
    const double middle = median(values);
    std::vector<double> away;
    for (const double v : values) away.push_back(std::abs(v - middle));
    const double limit = outlier_sigmas * std::max(1e-300, 1.4826 * median(away));
    double sum = 0, square = 0, n = 0;
    for (const double v : values) {
        if (std::abs(v - middle) > limit) continue;
        sum += v;
        square += v * v;
        ++n;
    }
    const double mean = sum / n;
    return {mean, std::sqrt(std::max(0.0, square / n - mean * mean) / std::max(1.0, n - 1))};
}

/// Per block, the mean over all pairs of a function of the block; blocks without a value are left out.
template <class Value>
std::vector<double> over_pairs(const std::vector<TransferPair>& pairs, Channel channel, bool dark, const Value& value) {
    std::vector<double> out;
    for (std::size_t site = 0; site < pairs.front().planes.size(); ++site) {
        std::vector<double> sum, weight;
        for (const TransferPair& pair : pairs) {
            const PairPlane& plane = pair.planes[site];
            if (pair.dark != dark || plane.channel != channel) continue;
            sum.resize(plane.blocks.size());
            weight.resize(plane.blocks.size());
            for (std::size_t i = 0; i < plane.blocks.size(); ++i) {
                const PairBlock& block = plane.blocks[i];
                if (block.clipped || (!dark && block.mean_a > usable_share * pair.white)) continue;
                const auto [v, w] = value(block);
                sum[i] += w * v;
                weight[i] += w;
            }
        }
        for (std::size_t i = 0; i < sum.size(); ++i)
            if (weight[i] > 0) out.push_back(sum[i] / weight[i]);
    }
    return out;
}

/// Fixed patterns: covariances of both frames, which temporal noise does not enter.
void add_patterns(ColourNoise& out, const std::vector<TransferPair>& pairs, Channel channel) {
    const MeasuredFigure dark = robust_mean(over_pairs(
        pairs, channel, true, [](const PairBlock& b) { return std::pair(static_cast<double>(b.pattern), 1.0); }));
    const double dark_variance = std::max(0.0, dark.value);
    out.dsnu.value = out.gain.value * std::sqrt(dark_variance);
    if (dark.sigma > 0)
        out.dsnu.sigma = out.gain.value * 0.5 * dark.sigma / std::sqrt(std::max(dark_variance, dark.sigma));
    const MeasuredFigure light = robust_mean(over_pairs(pairs, channel, false, [&](const PairBlock& b) {
        const double square = static_cast<double>(b.mean_a) * b.mean_b;
        if (b.mean_a <= 0 || b.mean_b <= 0) return std::pair(0.0, 0.0);
        // A block's covariance scatters with its temporal variance, so bright blocks say more.
        const double relative = out.variance(std::sqrt(square)) / square + 1e-5;
        return std::pair((b.pattern - dark_variance) / square, 1 / (relative * relative));
    }));
    const double variance = std::max(0.0, light.value);
    out.prnu = {100 * std::sqrt(variance), 100 * 0.5 * light.sigma / std::sqrt(std::max(variance, light.sigma))};
}

/// Rounding to multiples of `step` counts adds step^2 / 12 to the variance (EMVA 1288). Noise of whole lines adds its
/// own variance, but for what a block's mean takes out.
void add_electrons(ColourNoise& out, double white, double step, const LineNoise& lines) {
    constexpr double in_blocks =
        (1 - 1.0 / pair_block_side) * pair_block_samples / static_cast<double>(pair_block_samples - 1);
    const double apart = step * step / 12 + in_blocks * (lines.row * lines.row + lines.column * lines.column);
    const double slope = out.slope.value, relative = out.slope.sigma / slope;
    out.gain = {1 / slope, relative / slope};
    out.full_well = {white / slope, relative * white / slope};
    const double read = std::max(1e-9, out.floor.value - apart), counts = std::sqrt(read);
    out.read_counts = {counts, 0.5 * out.floor.sigma / std::max(counts, std::sqrt(out.floor.sigma))};
    // Electrons are counts over the slope, and both come from one fit.
    const double by_floor = out.read_counts.sigma / std::max(1e-12, out.floor.sigma) / slope,
                 by_slope = -counts / (slope * slope);
    const double variance = by_floor * by_floor * out.floor.sigma * out.floor.sigma +
                            by_slope * by_slope * out.slope.sigma * out.slope.sigma +
                            2 * by_floor * by_slope * out.slope_floor;
    out.read_noise = {counts / slope, std::sqrt(std::max(0.0, variance))};
    out.dynamic_range_ev = std::log2(out.full_well.value / std::max(1e-9, out.read_noise.value));
}

ColourNoise colour_noise(const std::vector<TransferPair>& pairs, Channel channel, double value_step,
                         const LineNoise& lines) {
    const char* name = colour_names[static_cast<int>(channel)];
    std::vector<Equation> equations = equations_of(pairs, channel);
    if (equations.size() < 50)
        throw input_error(
            fmt::format("The flat fields have no {} samples between black and {:g} % of the white level; expose them "
                        "less.",
                        name, 100 * usable_share));
    const Fit fit = fitted(equations);
    ColourNoise out;
    out.slope = {fit.terms[0], std::sqrt(fit.covariance(0, 0))};
    out.floor = {fit.terms[1], std::sqrt(fit.covariance(1, 1))};
    out.slope_floor = fit.covariance(0, 1);
    if (!(out.slope.value > 0) || !(out.slope.sigma < 0.2 * out.slope.value))
        throw input_error(
            fmt::format("The gain of {} cannot be measured: the noise of these frames does not grow with their light; "
                        "take flat fields of several exposures, and raw frames that nothing was done to.",
                        name));
    out.chi_square = fit.chi_square;
    out.blocks = fit.used;
    double white = 0;
    for (const TransferPair& pair : pairs) white = std::max(white, pair.white);
    add_electrons(out, white, value_step, lines);
    out.row_noise = lines.row * out.gain.value;
    out.column_noise = lines.column * out.gain.value;
    add_patterns(out, pairs, channel);
    double dark = 0;
    int darks = 0;
    for (const TransferPair& pair : pairs)
        for (const PairPlane& plane : pair.planes)
            if (pair.dark && plane.channel == channel) {
                dark += plane.mean;
                ++darks;
            }
    if (darks > 0) out.black = dark / darks;
    return out;
}

}  // namespace

std::array<ColourNoise, 3> photon_transfer(const std::vector<TransferPair>& pairs, double value_step,
                                           const LineNoise& lines) {
    const ColourNoise green = colour_noise(pairs, Channel::green, value_step, lines);
    const auto of = [&](Channel channel) {
        const std::vector<PairPlane>& planes = pairs.front().planes;
        const bool seen =
            std::any_of(planes.begin(), planes.end(), [&](const PairPlane& plane) { return plane.channel == channel; });
        return seen ? colour_noise(pairs, channel, value_step, lines) : green;
    };
    return {of(Channel::red), green, of(Channel::blue)};
}

}  // namespace optrel
