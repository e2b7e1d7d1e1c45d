#include "calibration/falloff.h"

#include <ceres/ceres.h>
#include <fmt/format.h>

#include <Eigen/Cholesky>
#include <algorithm>
#include <array>
#include <cmath>

#include "base/error.h"
#include "base/parallel.h"
#include "calibration/common_part.h"

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

/// The gradient of the ratio of two flats of one channel: what the lamp does, since the falloff divides out.
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
    const Vec3 plane = normal.ldlt().solve(right);
    return plane.allFinite() ? Vec2(plane.y(), plane.z()) : Vec2::Zero();
}

/// The plane of light that falls on a flat: which of the gradients, and its sign.
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
    double misfit_percent[3] = {};  // what is alike in all flats beyond the blocks' noise
};

/// RMS of what the residuals of a channel have in common in cells of the picture, beyond what their own spread
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
            const int i = std::clamp(static_cast<int>(block.uv.x() / geometry.width * across), 0, across - 1),
                      j = std::clamp(static_cast<int>(block.uv.y() / geometry.height * down), 0, down - 1);
            Cell& cell = cells[j * across + i];
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

SmoothModel fit(const std::vector<FlatField>& flats, const std::vector<Lighting>& lighting, int gradients,
                const Vec2& centre, bool centre_free, bool reciprocal, bool eighth_power, int stride,
                const PictureGeometry& geometry, const Progress& progress) {
    SmoothModel out;
    out.reciprocal = reciprocal;
    for (auto& a : out.a) a[0] = reciprocal ? 0.4 : -0.3;
    const double half = geometry.half_diagonal_mm();
    double c[2] = {centre.x(), centre.y()};
    std::vector<std::array<double, 2>> lamp(gradients, {0, 0});
    std::vector<std::array<double, 3>> level(flats.size());
    for (std::size_t k = 0; k < flats.size(); ++k)
        for (double& l : level[k]) l = std::log(flats[k].level + 1e-3);
    bool seen[3] = {false, false, false};
    double weight = 1 / 0.003;
    for (int round = 0; round < 2; ++round) {
        progress.check();
        ceres::Problem problem;
        for (std::size_t k = 0; k < flats.size(); ++k)
            for (std::size_t b = k % stride; b < flats[k].blocks.size(); b += stride) {
                const FlatField::Block& block = flats[k].blocks[b];
                const int channel = static_cast<int>(block.channel);
                seen[channel] = true;
                auto* cost = new ceres::AutoDiffCostFunction<BlockCost, 1, terms, 2, 2, 1>(new BlockCost{
                    std::log(block.mean), geometry.to_sensor(block.uv) / half, lighting[k].sign, weight, reciprocal});
                problem.AddResidualBlock(cost, new ceres::CauchyLoss(3.0), out.a[channel], c,
                                         lamp[lighting[k].gradient].data(), &level[k][channel]);
            }
        if (!centre_free) problem.SetParameterBlockConstant(c);
        if (!eighth_power)
            for (int channel = 0; channel < 3; ++channel)
                if (seen[channel]) problem.SetManifold(out.a[channel], new ceres::SubsetManifold(terms, {3}));
        ceres::Solver::Options options;
        options.linear_solver_type = ceres::DENSE_NORMAL_CHOLESKY;
        options.max_num_iterations = 50;
        options.function_tolerance = 1e-8;
        options.logging_type = ceres::SILENT;
        ceres::Solver::Summary summary;
        ceres::Solve(options, &problem, &summary);
        if (!summary.IsSolutionUsable()) return out;

        out.residuals.clear();
        double sum[3] = {0, 0, 0};
        int count[3] = {0, 0, 0};
        std::vector<double> absolute;
        for (std::size_t k = 0; k < flats.size(); ++k)
            for (const FlatField::Block& block : flats[k].blocks) {
                const int channel = static_cast<int>(block.channel);
                double r = 0;
                BlockCost{std::log(block.mean), geometry.to_sensor(block.uv) / half, lighting[k].sign, 1, reciprocal}(
                    out.a[channel], c, lamp[lighting[k].gradient].data(), &level[k][channel], &r);
                out.residuals.push_back(r);
                absolute.push_back(std::abs(r));
                if (std::abs(r) < 0.1) {
                    sum[channel] += r * r;
                    ++count[channel];
                }
            }
        for (int channel = 0; channel < 3; ++channel)
            out.residual_percent[channel] = count[channel] ? 100 * std::sqrt(sum[channel] / count[channel]) : 0;
        std::nth_element(absolute.begin(), absolute.begin() + absolute.size() / 2, absolute.end());
        out.sigma = std::max(1e-5, absolute[absolute.size() / 2] * 1.4826);
        weight = 1 / out.sigma;
        out.mean_square = 0;
        for (const double r : out.residuals) out.mean_square += std::min(r * r, 1e-4) / out.residuals.size();
        if (round == 0) continue;
        ceres::Covariance::Options how;
        how.algorithm_type = ceres::DENSE_SVD;
        how.null_space_rank = -1;
        ceres::Covariance covariance(how);
        std::vector<std::pair<const double*, const double*>> wanted;
        for (int channel = 0; channel < 3; ++channel)
            if (seen[channel]) wanted.emplace_back(out.a[channel], out.a[channel]);
        const bool known = !wanted.empty() && covariance.Compute(wanted, &problem);
        for (int channel = 0; channel < 3; ++channel) {
            if (known && seen[channel]) {
                Eigen::Matrix<double, terms, terms, Eigen::RowMajor> own;
                covariance.GetCovarianceBlock(out.a[channel], out.a[channel], own.data());
                out.covariance[channel] = own;
            }
            out.misfit_percent[channel] = 100 * common_residual(flats, out.residuals, channel, geometry);
        }
        const Eigen::Vector4d corner = Eigen::Vector4d::Ones();
        const double relative =
            1 + out.a[1][0] + out.a[1][1] + out.a[1][2] + out.a[1][3];  // of light or gain: the same share of either
        const double by_terms =
            100 * std::sqrt(std::max(0.0, corner.dot(out.covariance[1] * corner))) / std::max(0.05, relative);
        out.sigma_percent = std::hypot(by_terms, out.misfit_percent[1]);
    }
    out.centre = Vec2(c[0], c[1]);
    out.ok = true;
    return out;
}

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

}  // namespace

FlatField measure_flat(const std::string& name, const MeasuringPicture& picture) {
    FlatField flat;
    flat.name = name;
    int clipped = 0, all = 0;
    std::vector<double> green;
    for (const SamplePlane& plane : picture.planes) {
        // Whole blocks from edge to edge: those of the corners decide how the falloff ends.
        const int across = std::clamp(plane.values.cols / 8, 1, 48), down = std::clamp(plane.values.rows / 8, 1, 32);
        for (int row = 0; row < down; ++row)
            for (int column = 0; column < across; ++column) {
                const int i = plane.values.cols * column / across, right = plane.values.cols * (column + 1) / across;
                const int j = plane.values.rows * row / down, bottom = plane.values.rows * (row + 1) / down;
                ++all;
                double sum = 0, squares = 0;
                int white = 0;
                for (int y = j; y < bottom; ++y)
                    for (int x = i; x < right; ++x) {
                        const double v = plane.values(y, x);
                        sum += v;
                        squares += v * v;
                        white += v > 0.985;
                    }
                const double n = double(right - i) * (bottom - j), mean = sum / n,
                             sigma = std::sqrt(std::max(0.0, squares / n - mean * mean));
                if (white > 0.005 * n) {
                    ++clipped;
                    continue;
                }
                double kept = 0;
                int count = 0;
                for (int y = j; y < bottom; ++y)
                    for (int x = i; x < right; ++x)
                        if (const double v = plane.values(y, x); std::abs(v - mean) <= 4 * sigma) {
                            kept += v;
                            ++count;
                        }
                if (count == 0 || kept <= 0) continue;
                flat.blocks.push_back({Vec2(plane.u0 + (i + right - 1) / 2.0 * plane.step,
                                            plane.v0 + (j + bottom - 1) / 2.0 * plane.step),
                                       plane.channel, kept / count});
                if (plane.channel == Channel::green) green.push_back(kept / count);
            }
    }
    flat.clipped = all ? clipped / double(all) : 0;
    if (!green.empty()) {
        std::nth_element(green.begin(), green.begin() + green.size() / 2, green.end());
        flat.level = green[green.size() / 2];
    }
    return flat;
}

FalloffFit fit_falloff(const std::vector<FlatField>& flats, const Vec2& optical_centre_mm,
                       const PictureGeometry& geometry, const Progress& progress) {
    const double half = geometry.half_diagonal_mm();
    for (const FlatField& flat : flats)
        if (flat.blocks.size() < 50)
            throw input_error(
                fmt::format("The flat field {} has too few usable blocks ({}): it is clipped or black; expose it at "
                            "about half of the white level.",
                            flat.name, flat.blocks.size()));
    // Which flats belong to which direction of the light: by the gradient of their ratio to the first.
    std::vector<Vec2> gradients(flats.size(), Vec2::Zero());
    Vec2 widest = Vec2::Zero();
    for (std::size_t k = 1; k < flats.size(); ++k) {
        gradients[k] = ratio_gradient(flats[k], flats[0], geometry);
        if (gradients[k].norm() > widest.norm()) widest = gradients[k];
    }
    Falloff out;
    out.centre_measured = widest.norm() > 0.004;
    std::vector<double> sign(flats.size(), 1);
    if (out.centre_measured)
        for (std::size_t k = 0; k < flats.size(); ++k)
            if (gradients[k].dot(widest) > 0.5 * widest.squaredNorm()) sign[k] = -1;

    std::vector<Lighting> lighting(flats.size());
    for (std::size_t k = 0; k < flats.size(); ++k) lighting[k] = {0, sign[k]};
    // The shorter polynomial is preferred; the eighth power earns its place when the sum of squares falls by far more
    // than three more unknowns would take from noise alone. A part of the blocks is enough to choose by.
    SmoothModel models[4];
    constexpr int choice_stride = 5;
    parallel_for(4, [&](int i) {
        models[i] = fit(flats, lighting, 1, optical_centre_mm / half, out.centre_measured, i % 2 == 1, i >= 2,
                        choice_stride, geometry, progress);
    });
    int chosen = 0;
    for (int i = 1; i < 4; ++i) {
        const double earned =
            i >= 2 ? 1 - 30.0 * choice_stride / std::max<std::size_t>(500, models[i].residuals.size()) : 1;
        if (models[i].ok && (!models[chosen].ok || models[i].mean_square < models[chosen].mean_square * earned))
            chosen = i;
    }
    const SmoothModel best = fit(flats, lighting, 1, optical_centre_mm / half, out.centre_measured, chosen % 2 == 1,
                                 chosen >= 2, 1, geometry, progress);
    if (!best.ok)
        throw input_error("No smooth falloff fits the flat fields: check that they show an evenly lit, plain surface.");
    store(best, half, out);
    FalloffFit result{out, std::vector<FlatCheck>(flats.size())};
    std::size_t at = 0;
    for (std::size_t k = 0; k < flats.size(); ++k) {
        FlatCheck& check = result.flats[k];
        int uneven = 0;
        for (const FlatField::Block& block : flats[k].blocks) {
            const double r = best.residuals[at++];
            if (std::abs(r) < std::max(0.015, 6 * best.sigma)) continue;
            ++uneven;
            if (std::abs(r) * 100 > check.worst_percent) {
                check.worst_percent = std::abs(r) * 100;
                check.worst_place = block.uv;
            }
        }
        check.light_side = sign[k] > 0 ? 1 : -1;
        check.uneven = uneven / double(flats[k].blocks.size());
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
    const SmoothModel model = fit(frames, lighting, static_cast<int>(frames.size()), optical_centre_mm / half, false,
                                  true, false, 1, geometry, progress);
    if (!model.ok) return std::nullopt;
    Falloff out;
    out.from_chart = true;
    store(model, half, out);
    return out;
}

}  // namespace optrel
