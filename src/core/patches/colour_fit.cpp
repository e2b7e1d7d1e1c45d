// SPDX-License-Identifier: GPL-3.0-or-later
#include "patches/colour_fit.h"

#include <fmt/format.h>

#include <Eigen/Dense>
#include <algorithm>
#include <cmath>

#include "base/error.h"
#include "base/median.h"
#include "patches/colorimetry.h"
#include "render/colour.h"

namespace optrel {
namespace {

using Kind = ColourForm::Kind;

constexpr double grey_chroma = 6, grey_from = 25, grey_to = 97;
constexpr int folds = 5;
/// A surface that is grey to the eye differs to cameras by about this share (one sigma).
constexpr double grey_to_cameras = 0.001;

/// One patch of the fit.
struct Pair {
    int patch;
    cv::Vec3d balanced, xyz, lab;
};

std::vector<Pair> pairs_of(const PatchChart& chart, const std::vector<MeasuredPatch>& patches,
                           const std::array<double, 3>& neutral) {
    std::vector<Pair> out;
    for (std::size_t i = 0; i < patches.size(); ++i) {
        if (!patches[i].used()) continue;
        Pair p;
        p.patch = static_cast<int>(i);
        for (std::size_t c = 0; c < 3; ++c)
            p.balanced[static_cast<int>(c)] = std::max(0.0, patches[i].raw[c]) / neutral[c];
        p.xyz = chart.patches[i].xyz_d50;
        p.lab = lab_of(p.xyz, white_d50);
        out.push_back(p);
    }
    return out;
}

/// The weights of a form from its free parameters: those of all terms but the first column, which follows from white.
Eigen::MatrixXd weights_from(const Eigen::VectorXd& free, Kind kind) {
    const Eigen::Index terms = kind == Kind::matrix ? 3 : 6;
    Eigen::MatrixXd out(3, terms);
    for (Eigen::Index row = 0; row < 3; ++row) {
        double sum = 0;
        for (Eigen::Index k = 1; k < terms; ++k) sum += out(row, k) = free[row * (terms - 1) + k - 1];
        out(row, 0) = white_d50[static_cast<int>(row)] - sum;
    }
    return out;
}

Eigen::VectorXd free_of(const Eigen::MatrixXd& weights) {
    Eigen::VectorXd out(3 * (weights.cols() - 1));
    for (Eigen::Index row = 0; row < 3; ++row)
        for (Eigen::Index k = 1; k < weights.cols(); ++k) out[row * (weights.cols() - 1) + k - 1] = weights(row, k);
    return out;
}

/// Weighted parts of CIEDE2000 of all patches; what would be negative light counts as far away, smoothly.
Eigen::VectorXd residuals(const std::vector<Pair>& pairs, const ColourForm& form) {
    Eigen::VectorXd out(static_cast<Eigen::Index>(3 * pairs.size()));
    for (std::size_t i = 0; i < pairs.size(); ++i) {
        const cv::Vec3d parts = de2000_parts(pairs[i].lab, lab_of(form(pairs[i].balanced), white_d50));
        for (int k = 0; k < 3; ++k) out[static_cast<Eigen::Index>(3 * i) + k] = parts[k];
    }
    return out;
}

/// Linear least squares in XYZ, relative to the brightness of each patch: where the search for the least CIEDE2000
/// begins.
Eigen::VectorXd linear_start(const std::vector<Pair>& pairs, Kind kind) {
    const Eigen::Index terms = kind == Kind::matrix ? 3 : 6;
    Eigen::MatrixXd left(static_cast<Eigen::Index>(pairs.size()), terms - 1);
    Eigen::MatrixXd right(static_cast<Eigen::Index>(pairs.size()), 3);
    for (std::size_t i = 0; i < pairs.size(); ++i) {
        const Eigen::VectorXd t = ColourForm::terms(kind, pairs[i].balanced);
        const double weight = 1 / (0.05 + pairs[i].xyz[1]);
        const Eigen::Index row = static_cast<Eigen::Index>(i);
        for (Eigen::Index k = 1; k < terms; ++k) left(row, k - 1) = weight * (t[k] - t[0]);
        for (int c = 0; c < 3; ++c) right(row, c) = weight * (pairs[i].xyz[c] - t[0] * white_d50[c]);
    }
    // A trace of damping keeps terms that the patches cannot tell apart small.
    const Eigen::MatrixXd normal = left.transpose() * left + 1e-4 * Eigen::MatrixXd::Identity(terms - 1, terms - 1);
    const Eigen::MatrixXd solved = normal.ldlt().solve(left.transpose() * right);
    Eigen::VectorXd out(3 * (terms - 1));
    for (Eigen::Index row = 0; row < 3; ++row)
        for (Eigen::Index k = 0; k + 1 < terms; ++k) out[row * (terms - 1) + k] = solved(k, row);
    return out;
}

/// Derivatives of residuals by steps.
template <class Residuals>
Eigen::MatrixXd jacobian_of(const Residuals& residuals_at, const Eigen::VectorXd& at, const Eigen::VectorXd& there,
                            double step) {
    Eigen::MatrixXd out(there.size(), at.size());
    for (Eigen::Index k = 0; k < at.size(); ++k) {
        Eigen::VectorXd moved = at;
        moved[k] += step;
        out.col(k) = (residuals_at(moved) - there) / step;
    }
    return out;
}

/// Weights 1 / dE2000 of each patch, which turn least squares into the least sum of CIEDE2000.
Eigen::VectorXd weights_of(const Eigen::VectorXd& r) {
    Eigen::VectorXd out(r.size());
    for (Eigen::Index i = 0; i < r.size(); i += 3)
        out.segment(i, 3).setConstant(1 / std::sqrt(r.segment(i, 3).squaredNorm() + 0.01));
    return out;
}

/// Minimises the sum of CIEDE2000 (not of its square) by Levenberg and Marquardt with weights 1 / dE2000.
ColourForm fitted_form(const std::vector<Pair>& pairs, Kind kind) {
    Eigen::VectorXd free = linear_start(pairs, kind);
    const auto form_at = [&](const Eigen::VectorXd& at) { return ColourForm(kind, weights_from(at, kind)); };
    const auto residuals_at = [&](const Eigen::VectorXd& at) { return residuals(pairs, form_at(at)); };
    const auto cost_of = [&](const Eigen::VectorXd& r) {
        double sum = 0;
        for (Eigen::Index i = 0; i < r.size(); i += 3) sum += std::sqrt(r.segment(i, 3).squaredNorm() + 0.01);
        return sum;
    };
    Eigen::VectorXd r = residuals_at(free);
    double cost = cost_of(r), damping = 1e-3;
    for (int round = 0; round < 60; ++round) {
        const Eigen::MatrixXd jacobian = jacobian_of(residuals_at, free, r, 1e-5);
        const Eigen::VectorXd weight = weights_of(r);
        const Eigen::MatrixXd normal = jacobian.transpose() * weight.asDiagonal() * jacobian;
        const Eigen::VectorXd gradient = jacobian.transpose() * weight.asDiagonal() * r;
        bool better = false;
        for (int attempt = 0; attempt < 8 && !better; ++attempt) {
            Eigen::MatrixXd damped = normal;
            damped.diagonal() *= 1 + damping;
            damped.diagonal().array() += 1e-9;
            const Eigen::VectorXd next = free - damped.ldlt().solve(gradient);
            const Eigen::VectorXd there = residuals_at(next);
            if (const double now = cost_of(there); now < cost) {
                better = cost - now > 1e-7 * cost;
                free = next;
                r = there;
                cost = now;
                damping = std::max(1e-9, damping / 5);
                if (!better) return form_at(free);
            } else {
                damping *= 6;
            }
        }
        if (!better) break;
    }
    return form_at(free);
}

std::vector<double> errors_of(const std::vector<Pair>& pairs, const ColourForm& form) {
    std::vector<double> out;
    for (const Pair& p : pairs) out.push_back(de2000(p.lab, lab_of(form(p.balanced), white_d50)));
    return out;
}

/// The hue table on top of a form that brings the patches closest. Patches that say little of a hue leave it as it is.
ColourForm with_hues(const std::vector<Pair>& pairs, const ColourForm& form) {
    constexpr int nodes = HueCorrection::node_count, count = 3 * nodes;
    // What a unit step of each is worth: 4 degrees, or 8 percent.
    const double scales[3] = {4, 0.08, 0.08};
    constexpr double ridge = 0.5;
    const auto form_at = [&](const Eigen::VectorXd& x) {
        HueCorrection hues;
        for (int k = 0; k < nodes; ++k)
            hues.nodes[static_cast<std::size_t>(k)] = {scales[0] * x[3 * k], scales[1] * x[3 * k + 1],
                                                       scales[2] * x[3 * k + 2]};
        return form.with(hues);
    };
    const auto residuals_at = [&](const Eigen::VectorXd& at) { return residuals(pairs, form_at(at)); };
    Eigen::VectorXd x = Eigen::VectorXd::Zero(count);
    for (int round = 0; round < 8; ++round) {
        const Eigen::VectorXd r = residuals_at(x);
        const Eigen::MatrixXd jacobian = jacobian_of(residuals_at, x, r, 0.02);
        const Eigen::VectorXd weight = weights_of(r);
        const Eigen::MatrixXd normal =
            jacobian.transpose() * weight.asDiagonal() * jacobian + ridge * Eigen::MatrixXd::Identity(count, count);
        const Eigen::VectorXd step = normal.ldlt().solve(jacobian.transpose() * weight.asDiagonal() * r + ridge * x);
        x = (x - step).cwiseMax(-5).cwiseMin(5);
        if (step.norm() < 1e-3) break;
    }
    return form_at(x);
}

/// Errors of patches that the fit did not see, in the order of the patches.
std::vector<double> held_out(const std::vector<Pair>& pairs, Kind kind, bool hues = false) {
    std::vector<double> out(pairs.size());
    for (int fold = 0; fold < folds; ++fold) {
        std::vector<Pair> seen, unseen;
        for (std::size_t i = 0; i < pairs.size(); ++i)
            (static_cast<int>(i) % folds == fold ? unseen : seen).push_back(pairs[i]);
        if (seen.size() < 6) continue;
        ColourForm form = fitted_form(seen, kind);
        if (hues) form = with_hues(seen, form);
        const std::vector<double> errors = errors_of(unseen, form);
        std::size_t k = 0;
        for (std::size_t i = 0; i < pairs.size(); ++i)
            if (static_cast<int>(i) % folds == fold) out[i] = errors[k++];
    }
    return out;
}

/// True when `larger` errs less by 5 percent, by 0.03 and by twice the standard error of the difference.
bool wins_clearly(const std::vector<double>& larger, const std::vector<double>& smaller) {
    const double n = static_cast<double>(larger.size());
    double sum = 0, square = 0;
    for (std::size_t i = 0; i < larger.size(); ++i) {
        const double d = smaller[i] - larger[i];
        sum += d;
        square += d * d;
    }
    const double mean = sum / n, error = std::sqrt(std::max(0.0, square / n - mean * mean) / std::max(1.0, n - 1));
    // Nobody sees a hundredth, whatever share of a tiny error it is.
    constexpr double least = 0.03;
    return mean > std::max(least, 0.05 * spread_of(smaller).mean) && mean > 2 * error;
}

/// The camera values of a perfect diffuser, from the greys.
void take_neutral(const PatchChart& chart, const std::vector<MeasuredPatch>& patches, ColourFit& out) {
    for (std::size_t i = 0; i < patches.size(); ++i) {
        if (!patches[i].used()) continue;
        const cv::Vec3d lab = lab_of(chart.patches[i].xyz_d50, white_d50);
        if (std::hypot(lab[1], lab[2]) < grey_chroma && lab[0] > grey_from && lab[0] < grey_to)
            out.greys.push_back(static_cast<int>(i));
    }
    if (out.greys.size() < 2)
        throw input_error(fmt::format(
            "{} usable grey patches are on this chart; at least two are needed to know what is neutral. Expose the "
            "chart so that its greys are neither clipped nor black.",
            out.greys.size()));
    for (std::size_t c = 0; c < 3; ++c) {
        // A chart's greys are not quite grey: what they show of each colour is divided out.
        std::vector<double> values;
        for (const int i : out.greys) {
            const cv::Vec3d& xyz = chart.patches[static_cast<std::size_t>(i)].xyz_d50;
            const std::array<double, 3> seen{(xyz[0] / white_d50[0] + xyz[1]) / 2, xyz[1],
                                             (xyz[2] / white_d50[2] + xyz[1]) / 2};
            values.push_back(patches[static_cast<std::size_t>(i)].raw[c] / seen[c]);
        }
        const double middle = median(values);
        double sum = 0, square = 0, n = 0;
        for (const double v : values) {
            if (std::abs(v / middle - 1) > 0.15) continue;
            sum += v;
            square += v * v;
            ++n;
        }
        out.neutral[c] = sum / n;
        out.neutral_sigma[c] =
            std::sqrt(std::max(0.0, square / n - out.neutral[c] * out.neutral[c]) / std::max(1.0, n - 1));
    }
    const double n = static_cast<double>(out.greys.size());
    double all = 0;
    for (const std::size_t c : {0u, 2u}) {
        double square = 0;
        for (const int i : out.greys) {
            const std::array<double, 3>& raw = patches[static_cast<std::size_t>(i)].raw;
            const double ratio = raw[c] / raw[1] / (out.neutral[c] / out.neutral[1]) - 1;
            square += ratio * ratio;
        }
        out.balance_sigma[c] = std::hypot(std::sqrt(square / ((n - 1) * n)), grey_to_cameras);
        all += square / (2 * n);
    }
    out.grey_spread = std::sqrt(all);
}

/// Leaves out patches whose colour is lighter and paler than all others explain: glare.
void leave_out_glare(std::vector<Pair>& pairs, ColourFit& out) {
    for (int round = 0; round < 3; ++round) {
        const ColourForm form = fitted_form(pairs, Kind::matrix);
        const std::vector<double> errors = errors_of(pairs, form);
        const double limit = std::max(6.0, 5 * median(errors));
        const auto worst = std::max_element(errors.begin(), errors.end());
        const std::size_t at = static_cast<std::size_t>(worst - errors.begin());
        const cv::Vec3d seen = lab_of(form(pairs[at].balanced), white_d50), &wanted = pairs[at].lab;
        const bool paler = std::hypot(seen[1], seen[2]) < std::hypot(wanted[1], wanted[2]) + 2;
        if (*worst < limit || seen[0] < wanted[0] + 2 || !paler || pairs.size() <= 10) return;
        out.glare.emplace_back(pairs[at].patch, *worst);
        pairs.erase(pairs.begin() + static_cast<std::ptrdiff_t>(at));
    }
}

}  // namespace

Eigen::VectorXd ColourForm::terms(Kind kind, const cv::Vec3d& v) {
    const double r = std::max(0.0, v[0]), g = std::max(0.0, v[1]), b = std::max(0.0, v[2]);
    if (kind == Kind::matrix) return Eigen::Vector3d(v[0], v[1], v[2]);
    Eigen::VectorXd out(6);
    out << v[0], v[1], v[2], std::sqrt(r * g), std::sqrt(g * b), std::sqrt(r * b);
    return out;
}

cv::Vec3d ColourForm::operator()(const cv::Vec3d& balanced) const {
    const Eigen::Vector3d out = weights_ * terms(kind_, balanced);
    const cv::Vec3d xyz(out[0], out[1], out[2]);
    return hues_ ? (*hues_)(xyz) : xyz;
}

std::string ColourForm::name() const {
    return std::string(kind_ == Kind::matrix ? "matrix" : "root-polynomial") + (hues_ ? "+hue-table" : "");
}

cv::Matx33d ColourForm::matrix() const {
    cv::Matx33d out;
    for (int row = 0; row < 3; ++row)
        for (int k = 0; k < 3; ++k) out(row, k) = weights_(row, k);
    if (kind_ == Kind::matrix) return out;
    // The derivative at grey, where each root grows half with each of its two colours.
    constexpr int pairs[3][2] = {{0, 1}, {1, 2}, {0, 2}};
    for (int row = 0; row < 3; ++row)
        for (int k = 0; k < 3; ++k)
            for (const int c : pairs[k]) out(row, c) += 0.5 * weights_(row, 3 + k);
    return out;
}

double ColourForm::noise_amplification() const {
    const cv::Matx33d xyz_to_srgb(3.1338561, -1.6168667, -0.4906146, -0.9787684, 1.9161415, 0.0334540, 0.0719453,
                                  -0.2289914, 1.4052427);
    const cv::Matx33d m = xyz_to_srgb * matrix();
    double square = 0;
    for (const double v : m.val) square += v * v;
    return std::sqrt(square / 3);
}

ColourFit fit_colours(const PatchChart& chart, const std::vector<MeasuredPatch>& patches) {
    ColourFit out;
    take_neutral(chart, patches, out);
    std::vector<Pair> pairs = pairs_of(chart, patches, out.neutral);
    if (pairs.size() < 8)
        throw input_error(
            fmt::format("Only {} of {} patches can be used; at least 8 are needed.", pairs.size(), patches.size()));
    leave_out_glare(pairs, out);
    std::vector<double> unseen = held_out(pairs, Kind::matrix);
    Kind kind = Kind::matrix;
    bool hues = false;
    out.held_out_mean = spread_of(unseen).mean;
    if (pairs.size() >= 18) {
        const std::vector<double> by_roots = held_out(pairs, Kind::root_polynomial);
        out.other_held_out_mean = spread_of(by_roots).mean;
        if (wins_clearly(by_roots, unseen)) {
            kind = Kind::root_polynomial;
            unseen = by_roots;
            std::swap(out.held_out_mean, out.other_held_out_mean);
        }
    }
    // Three numbers for each of six hues need patches of all of them.
    if (pairs.size() >= 40) {
        const std::vector<double> by_hues = held_out(pairs, kind, true);
        hues = wins_clearly(by_hues, unseen);
        if (hues) {
            out.other_held_out_mean = out.held_out_mean;
            out.held_out_mean = spread_of(by_hues).mean;
        }
    }
    out.form = fitted_form(pairs, kind);
    if (hues) out.form = with_hues(pairs, out.form);
    const std::vector<double> errors = errors_of(pairs, out.form);
    for (std::size_t i = 0; i < pairs.size(); ++i) out.errors.push_back({pairs[i].patch, errors[i]});
    const Spread spread = spread_of(errors);
    out.mean = spread.mean;
    out.p95 = spread.p95;
    out.largest = spread.largest;
    return out;
}

}  // namespace optrel
