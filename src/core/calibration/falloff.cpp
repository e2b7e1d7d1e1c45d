// SPDX-License-Identifier: GPL-3.0-or-later
#include "calibration/falloff.h"

#include <ceres/ceres.h>
#include <ceres/normal_prior.h>
#include <fmt/format.h>

#include <Eigen/Core>
#include <algorithm>
#include <array>
#include <cmath>

#include "base/error.h"
#include "base/median.h"
#include "base/parallel.h"
#include "calibration/common_part.h"
#include "optics/linear.h"

namespace optrel {
namespace {

constexpr int terms = 4;

struct BlockCost {
    double log_value;
    Vec2 s;  // in half-diagonals
    double sign, weight;
    bool reciprocal;

    template <class T>
    bool operator()(const T* a, const T* centre, const T* gradient, const T* level, T* residual) const {
        using std::log;
        const T x = T(s.x()) - centre[0], y = T(s.y()) - centre[1];
        const T q = x * x + y * y;
        const T relative = T(1) + q * (a[0] + q * (a[1] + q * (a[2] + q * a[3])));
        const T lamp = T(1) + T(sign) * (gradient[0] * T(s.x()) + gradient[1] * T(s.y()));
        if (relative < T(0.01) || relative > T(200) || lamp < T(0.01)) return false;
        residual[0] = T(weight) * (T(log_value) - level[0] - (reciprocal ? -log(relative) : log(relative)) - log(lamp));
        return true;
    }
};

/// The gradient of the ratio of two flats of one channel. It shows the lamp alone, because the falloff cancels.
Vec2 ratio_gradient(const FlatField& a, const FlatField& b, const PictureGeometry& geometry) {
    Eigen::Matrix3d normal = Eigen::Matrix3d::Zero();
    Vec3 right = Vec3::Zero();
    std::size_t j = 0;
    for (const FlatField::Block& block : a.blocks) {
        if (block.channel != Channel::green) continue;
        const auto same = [&](const FlatField::Block& other) {
            return other.channel == Channel::green && other.uv == block.uv;
        };
        while (j < b.blocks.size() && !same(b.blocks[j])) ++j;
        if (j == b.blocks.size()) {
            j = 0;
            continue;
        }
        const Vec2 s = geometry.to_sensor(block.uv) / geometry.half_diagonal_mm();
        const Vec3 row(1, s.x(), s.y());
        normal += row * row.transpose();
        right += row * std::log(block.mean / b.blocks[j].mean);
    }
    const Vec3 plane = solve_symmetric(normal, right);
    return plane.allFinite() ? Vec2(plane.y(), plane.z()) : Vec2::Zero();
}

/// The plane of light of a flat: index of its gradient, and its sign.
struct Lighting {
    int gradient;
    double sign;
};

struct SmoothModel {
    bool ok = false;
    bool reciprocal = false;
    double a[3][terms] = {};
    Vec2 centre = Vec2::Zero();     // in half-diagonals, as s
    std::vector<double> residuals;  // of the logarithm, block by block in the order of the flats
    double residual_percent[3] = {};
    double sigma = 0;          // robust one sigma of a block's residual
    double mean_square = 0;    // of the residuals, each bounded at six sigma of the smaller model
    double sigma_percent = 0;  // of the gain in the corner
    std::array<Eigen::Matrix4d, 3> covariance{Eigen::Matrix4d::Zero(), Eigen::Matrix4d::Zero(),
                                              Eigen::Matrix4d::Zero()};
    double misfit_percent[3] = {};  // common to all flats, beyond the noise of the blocks
};

/// RMS of the common part of a channel's residuals in cells of the picture, beyond what their own spread
/// explains.
double common_residual(const std::vector<FlatField>& flats, const std::vector<double>& residuals, int channel,
                       const PictureGeometry& geometry) {
    constexpr int across = 9, down = 6;
    struct Cell {
        double sum = 0, squares = 0;
        int count = 0;
    };
    std::vector<Cell> cells(across * down);
    std::size_t at = 0;
    for (const FlatField& flat : flats)
        for (const FlatField::Block& block : flat.blocks) {
            const double r = residuals[at++];
            if (static_cast<int>(block.channel) != channel || std::abs(r) > 0.1) continue;
            Cell& cell = cells[geometry.cell(block.uv, across, down)];
            cell.sum += r;
            cell.squares += r * r;
            ++cell.count;
        }
    CommonPart common(1);
    for (const Cell& cell : cells) {
        if (cell.count < 8) continue;
        const double mean = cell.sum / cell.count;
        common.add(mean * mean, std::max(0.0, cell.squares / cell.count - mean * mean) / cell.count);
    }
    return common.rms();
}

/// The smooth model to fit, and its data.
struct FalloffForm {
    Vec2 centre = Vec2::Zero();  ///< at the start, in half-diagonals
    int gradients = 1;           ///< planes of light
    int stride = 1;              ///< use every n-th block
    bool centre_free = false;
    bool reciprocal = false;
};

/// Priors of the last terms, one sigma: of the term in h^8, which is fitted, and of h^10, which is not. A power of the
/// cosine over a corner of 30 degrees, with the effect of barrel distortion, has 0.08 and 0.013. Least squares over the
/// lower terms leave 1/252 of the latter in the outermost corner, and an RMS of 1 / (252 sqrt(11)) over the picture
/// (shifted Legendre polynomials).
constexpr double eighth_power_sigma = 0.1, tenth_power_sigma = 0.03;
const double tenth_power_rms = tenth_power_sigma / (252 * std::sqrt(11.0));

/// The fit of one form to flat fields: the light's planes, a level for each flat and channel, and the falloff of each
/// channel.
class SmoothFit {
public:
    SmoothFit(const std::vector<FlatField>& flats, const std::vector<Lighting>& lighting, const FalloffForm& form,
              const PictureGeometry& geometry)
        : flats_(flats),
          lighting_(lighting),
          form_(form),
          geometry_(geometry),
          centre_{form.centre.x(), form.centre.y()},
          lamp_(form.gradients, {0, 0}),
          level_(flats.size()) {
        out_.reciprocal = form.reciprocal;
        for (auto& a : out_.a) a[0] = form.reciprocal ? 0.4 : -0.3;
        for (std::size_t k = 0; k < flats.size(); ++k)
            for (double& l : level_[k]) l = std::log(flats[k].level + 1e-3);
    }

    /// First fits with typical noise, then with the noise of these flats. A failed fit has ok = false.
    SmoothModel run(const Progress& progress) {
        progress.check();
        ceres::Problem first;
        if (!solve(first, 1 / 0.003)) return out_;
        take_residuals();
        progress.check();
        ceres::Problem second;
        if (!solve(second, 1 / out_.sigma)) return out_;
        take_residuals();
        take_uncertainty(second);
        out_.centre = Vec2(centre_[0], centre_[1]);
        out_.ok = true;
        return out_;
    }

private:
    BlockCost cost_of(std::size_t flat, const FlatField::Block& block, double weight) const {
        return {std::log(block.mean), geometry_.to_sensor(block.uv) / geometry_.half_diagonal_mm(),
                lighting_[flat].sign, weight, form_.reciprocal};
    }

    bool solve(ceres::Problem& problem, double weight) {
        for (std::size_t k = 0; k < flats_.size(); ++k)
            for (std::size_t b = k % form_.stride; b < flats_[k].blocks.size(); b += form_.stride) {
                const FlatField::Block& block = flats_[k].blocks[b];
                const int channel = static_cast<int>(block.channel);
                seen_[channel] = true;
                using Cost = ceres::AutoDiffCostFunction<BlockCost, 1, terms, 2, 2, 1>;
                problem.AddResidualBlock(new Cost(new BlockCost(cost_of(k, block, weight))), new ceres::CauchyLoss(3.0),
                                         out_.a[channel], centre_, lamp_[lighting_[k].gradient].data(),
                                         &level_[k][channel]);
            }
        if (!form_.centre_free) problem.SetParameterBlockConstant(centre_);
        const ceres::Matrix in_sigmas = Eigen::RowVector4d(0, 0, 0, 1 / eighth_power_sigma);
        for (int channel = 0; channel < 3; ++channel)
            if (seen_[channel])
                problem.AddResidualBlock(new ceres::NormalPrior(in_sigmas, ceres::Vector::Zero(terms)), nullptr,
                                         out_.a[channel]);
        ceres::Solver::Options options;
        options.linear_solver_type = ceres::DENSE_NORMAL_CHOLESKY;
        options.max_num_iterations = 50;
        options.function_tolerance = 1e-8;
        options.logging_type = ceres::SILENT;
        ceres::Solver::Summary summary;
        ceres::Solve(options, &problem, &summary);
        return summary.IsSolutionUsable();
    }

    void take_residuals() {
        out_.residuals.clear();
        double sum[3] = {0, 0, 0};
        int count[3] = {0, 0, 0};
        std::vector<double> absolute;
        for (std::size_t k = 0; k < flats_.size(); ++k)
            for (const FlatField::Block& block : flats_[k].blocks) {
                const int channel = static_cast<int>(block.channel);
                double r = 0;
                cost_of(k, block, 1)(out_.a[channel], centre_, lamp_[lighting_[k].gradient].data(), &level_[k][channel],
                                     &r);
                out_.residuals.push_back(r);
                absolute.push_back(std::abs(r));
                if (std::abs(r) >= 0.1) continue;
                sum[channel] += r * r;
                ++count[channel];
            }
        for (int channel = 0; channel < 3; ++channel)
            out_.residual_percent[channel] = count[channel] ? 100 * std::sqrt(sum[channel] / count[channel]) : 0;
        out_.sigma = std::max(1e-5, median(absolute) * 1.4826);
        out_.mean_square = 0;
        for (const double r : out_.residuals) out_.mean_square += std::min(r * r, 1e-4) / out_.residuals.size();
    }

    void take_uncertainty(ceres::Problem& problem) {
        ceres::Covariance::Options how;
        how.algorithm_type = ceres::DENSE_SVD;
        how.null_space_rank = -1;
        ceres::Covariance covariance(how);
        std::vector<std::pair<const double*, const double*>> wanted;
        for (int channel = 0; channel < 3; ++channel)
            if (seen_[channel]) wanted.emplace_back(out_.a[channel], out_.a[channel]);
        const bool known = !wanted.empty() && covariance.Compute(wanted, &problem);
        for (int channel = 0; channel < 3; ++channel) {
            if (known && seen_[channel]) {
                Eigen::Matrix<double, terms, terms, Eigen::RowMajor> own;
                covariance.GetCovarianceBlock(out_.a[channel], out_.a[channel], own.data());
                out_.covariance[channel] = own;
            }
            out_.misfit_percent[channel] =
                100 * std::hypot(common_residual(flats_, out_.residuals, channel, geometry_), tenth_power_rms);
        }
        // A monochrome body shows one falloff, which is that of every colour as far as anybody knows.
        for (const int channel : {0, 2}) {
            if (seen_[channel]) continue;
            std::copy_n(out_.a[1], terms, out_.a[channel]);
            out_.covariance[channel] = out_.covariance[1];
            out_.residual_percent[channel] = out_.residual_percent[1];
            out_.misfit_percent[channel] = out_.misfit_percent[1];
        }
        // A relative error of the light is the same relative error of the gain.
        const double relative = 1 + out_.a[1][0] + out_.a[1][1] + out_.a[1][2] + out_.a[1][3];
        const Eigen::Vector4d corner = Eigen::Vector4d::Ones();
        const double by_terms = std::sqrt(std::max(0.0, corner.dot(out_.covariance[1] * corner)));
        out_.sigma_percent = std::hypot(100 * by_terms / std::max(0.05, relative), out_.misfit_percent[1]);
    }

    const std::vector<FlatField>& flats_;
    const std::vector<Lighting>& lighting_;
    const FalloffForm& form_;
    const PictureGeometry& geometry_;
    SmoothModel out_;
    double centre_[2];
    std::vector<std::array<double, 2>> lamp_;
    std::vector<std::array<double, 3>> level_;
    bool seen_[3] = {false, false, false};
};

void store(const SmoothModel& model, double half_diagonal_mm, Falloff& out) {
    for (int c = 0; c < 3; ++c) {
        for (int t = 0; t < terms; ++t) out.a[c][t] = model.a[c][t];
        out.residual_percent[c] = model.residual_percent[c];
        out.misfit_percent[c] = model.misfit_percent[c];
    }
    out.covariance = model.covariance;
    out.centre_mm = model.centre * half_diagonal_mm;
    out.sigma_percent = model.sigma_percent;
    out.reciprocal = model.reciprocal;
}

/// A rectangular part of a plane.
struct BlockArea {
    int left, top, right, bottom;  ///< samples, the last two beyond
};

/// The mean of the samples within four sigma; empty when the block is clipped or black.
std::optional<double> robust_mean(const SamplePlane& plane, const BlockArea& at, bool& clipped) {
    double sum = 0, squares = 0;
    int white = 0;
    for (int y = at.top; y < at.bottom; ++y)
        for (int x = at.left; x < at.right; ++x) {
            const double v = plane.values(y, x);
            sum += v;
            squares += v * v;
            white += v > 0.985;
        }
    const double n = double(at.right - at.left) * (at.bottom - at.top), mean = sum / n;
    const double sigma = std::sqrt(std::max(0.0, squares / n - mean * mean));
    clipped = white > 0.005 * n;
    if (clipped) return std::nullopt;
    double kept = 0;
    int count = 0;
    for (int y = at.top; y < at.bottom; ++y)
        for (int x = at.left; x < at.right; ++x)
            if (const double v = plane.values(y, x); std::abs(v - mean) <= 4 * sigma) {
                kept += v;
                ++count;
            }
    if (count == 0 || kept <= 0) return std::nullopt;
    return kept / count;
}

}  // namespace

FlatField measure_flat(const std::string& name, const MeasuringPicture& picture) {
    FlatField flat;
    flat.name = name;
    int clipped = 0, all = 0;
    std::vector<double> green;
    for (const SamplePlane& plane : picture.planes) {
        // Blocks cover the whole plane, because those in the corners determine the end of the falloff curve.
        const int across = std::clamp(plane.values.cols / 8, 1, 48), down = std::clamp(plane.values.rows / 8, 1, 32);
        for (int row = 0; row < down; ++row)
            for (int column = 0; column < across; ++column) {
                const BlockArea at{plane.values.cols * column / across, plane.values.rows * row / down,
                                   plane.values.cols * (column + 1) / across, plane.values.rows * (row + 1) / down};
                bool white = false;
                const std::optional<double> mean = robust_mean(plane, at, white);
                ++all;
                clipped += white;
                if (!mean) continue;
                const Vec2 middle(plane.u0 + (at.left + at.right - 1) / 2.0 * plane.step,
                                  plane.v0 + (at.top + at.bottom - 1) / 2.0 * plane.step);
                flat.blocks.push_back({middle, plane.channel, *mean});
                if (plane.channel == Channel::green) green.push_back(*mean);
            }
    }
    flat.clipped = all ? clipped / double(all) : 0;
    if (!green.empty()) flat.level = median(green);
    return flat;
}

namespace {

/// The sign of each flat's light, from the gradient of its ratio to the first one. All signs are equal when the light
/// was not turned.
std::vector<double> light_signs(const std::vector<FlatField>& flats, const PictureGeometry& geometry, bool& turned) {
    std::vector<Vec2> gradients(flats.size(), Vec2::Zero());
    Vec2 widest = Vec2::Zero();
    for (std::size_t k = 1; k < flats.size(); ++k) {
        gradients[k] = ratio_gradient(flats[k], flats[0], geometry);
        if (gradients[k].norm() > widest.norm()) widest = gradients[k];
    }
    turned = widest.norm() > 0.004;
    std::vector<double> sign(flats.size(), 1);
    for (std::size_t k = 0; k < flats.size(); ++k)
        if (turned && gradients[k].dot(widest) > 0.5 * widest.squaredNorm()) sign[k] = -1;
    return sign;
}

/// Chooses the better form: the polynomial for the light or for its reciprocal. A part of the blocks suffices for the
/// choice.
FalloffForm choose_form(const std::vector<FlatField>& flats, const std::vector<Lighting>& lighting, FalloffForm form,
                        const PictureGeometry& geometry, const Progress& progress) {
    std::array<FalloffForm, 2> forms;
    std::array<SmoothModel, 2> models;
    for (int i = 0; i < 2; ++i) {
        forms[i] = form;
        forms[i].stride = 5;
        forms[i].reciprocal = i == 1;
    }
    parallel_for(2, [&](int i) { models[i] = SmoothFit(flats, lighting, forms[i], geometry).run(progress); });
    form.reciprocal = models[1].ok && (!models[0].ok || models[1].mean_square < models[0].mean_square);
    return form;
}

/// How much of a flat deviates from the smooth model, and where most. `residuals` are those of this flat, block by
/// block.
FlatCheck check_flat(const FlatField& flat, const double* residuals, double sigma) {
    FlatCheck check;
    int uneven = 0;
    for (const FlatField::Block& block : flat.blocks) {
        const double r = std::abs(*residuals++);
        if (r < std::max(0.015, 6 * sigma)) continue;
        ++uneven;
        if (r * 100 <= check.worst_percent) continue;
        check.worst_percent = r * 100;
        check.worst_place = block.uv;
    }
    check.uneven = uneven / double(flat.blocks.size());
    return check;
}

}  // namespace

FalloffFit fit_falloff(const std::vector<FlatField>& flats, const Vec2& optical_centre_mm,
                       const PictureGeometry& geometry, const Progress& progress) {
    const double half = geometry.half_diagonal_mm();
    for (const FlatField& flat : flats)
        if (flat.blocks.size() < 50)
            throw input_error(
                fmt::format("The flat field {} has too few usable blocks ({}): it is clipped or black; expose it at "
                            "about half of the white level.",
                            flat.name, flat.blocks.size()));
    FalloffFit result{{}, std::vector<FlatCheck>(flats.size())};
    const std::vector<double> sign = light_signs(flats, geometry, result.falloff.centre_measured);
    std::vector<Lighting> lighting(flats.size());
    for (std::size_t k = 0; k < flats.size(); ++k) lighting[k] = {0, sign[k]};
    FalloffForm form;
    form.centre = optical_centre_mm / half;
    form.centre_free = result.falloff.centre_measured;
    form = choose_form(flats, lighting, form, geometry, progress);
    const SmoothModel best = SmoothFit(flats, lighting, form, geometry).run(progress);
    if (!best.ok)
        throw input_error("No smooth falloff fits the flat fields: check that they show an evenly lit, plain surface.");
    store(best, half, result.falloff);
    const double* residuals = best.residuals.data();
    for (std::size_t k = 0; k < flats.size(); ++k) {
        result.flats[k] = check_flat(flats[k], residuals, best.sigma);
        result.flats[k].light_side = sign[k] > 0 ? 1 : -1;
        residuals += flats[k].blocks.size();
    }
    return result;
}

std::optional<Falloff> falloff_from_whites(const std::vector<FlatField>& frames, const Vec2& optical_centre_mm,
                                           const PictureGeometry& geometry, const Progress& progress) {
    std::size_t places = 0;
    for (const FlatField& f : frames) places += f.blocks.size();
    if (frames.size() < 3 || places < 200) return std::nullopt;
    const double half = geometry.half_diagonal_mm();
    std::vector<Lighting> lighting(frames.size());
    for (std::size_t k = 0; k < frames.size(); ++k) lighting[k] = {static_cast<int>(k), 1};
    FalloffForm form;
    form.centre = optical_centre_mm / half;
    form.gradients = static_cast<int>(frames.size());
    form.reciprocal = true;
    const SmoothModel model = SmoothFit(frames, lighting, form, geometry).run(progress);
    if (!model.ok) return std::nullopt;
    Falloff out;
    out.from_chart = true;
    store(model, half, out);
    return out;
}

}  // namespace optrel
