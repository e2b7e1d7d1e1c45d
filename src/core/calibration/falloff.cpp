#include "calibration/falloff.h"

#include <ceres/ceres.h>
#include <fmt/format.h>

#include <Eigen/Cholesky>
#include <algorithm>
#include <cmath>

#include "base/error.h"

namespace optrel {
namespace {

struct BlockCost {
    double log_value;
    Vec2 s;  // in half-diagonals
    double sign, weight;

    template <class T>
    bool operator()(const T* a, const T* centre, const T* gradient, const T* level, T* residual) const {
        using std::log;
        const T x = T(s.x()) - centre[0], y = T(s.y()) - centre[1];
        const T q = x * x + y * y;
        const T relative = T(1) + q * (a[0] + q * (a[1] + q * a[2]));
        const T lamp = T(1) + T(sign) * (gradient[0] * T(s.x()) + gradient[1] * T(s.y()));
        if (relative < T(0.01) || lamp < T(0.01)) return false;
        residual[0] = T(weight) * (T(log_value) - level[0] - log(relative) - log(lamp));
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
        const auto same = [&](const FlatField::Block& other) { return other.channel == Channel::green && other.uv == block.uv; };
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

}  // namespace

FlatField measure_flat(const std::string& name, const MeasuringPicture& picture) {
    FlatField flat;
    flat.name = name;
    int clipped = 0, all = 0;
    std::vector<double> green;
    for (const SamplePlane& plane : picture.planes) {
        const int size = std::max(8, plane.values.cols / 40);
        for (int j = 0; j + size <= plane.values.rows; j += size)
            for (int i = 0; i + size <= plane.values.cols; i += size) {
                ++all;
                double sum = 0, squares = 0;
                int white = 0;
                for (int y = j; y < j + size; ++y)
                    for (int x = i; x < i + size; ++x) {
                        const double v = plane.values(y, x);
                        sum += v;
                        squares += v * v;
                        white += v > 0.985;
                    }
                const double n = double(size) * size, mean = sum / n, sigma = std::sqrt(std::max(0.0, squares / n - mean * mean));
                if (white > 0.005 * n) {
                    ++clipped;
                    continue;
                }
                double kept = 0;
                int count = 0;
                for (int y = j; y < j + size; ++y)
                    for (int x = i; x < i + size; ++x)
                        if (const double v = plane.values(y, x); std::abs(v - mean) <= 4 * sigma) {
                            kept += v;
                            ++count;
                        }
                if (count == 0 || kept <= 0) continue;
                const double half = (size - 1) / 2.0;
                flat.blocks.push_back({Vec2(plane.u0 + (i + half) * plane.step, plane.v0 + (j + half) * plane.step), plane.channel, kept / count});
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

Falloff fit_falloff(const std::vector<FlatField>& flats, const Vec2& optical_centre_mm, const PictureGeometry& geometry, const Progress& progress) {
    const double half = geometry.half_diagonal_mm();
    for (const FlatField& flat : flats)
        if (flat.blocks.size() < 50)
            throw input_error(fmt::format("The flat field {} has too few usable blocks ({}): it is clipped or black; expose it at about half of the white level.",
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

    double a[3][3] = {{-0.3, 0, 0}, {-0.3, 0, 0}, {-0.3, 0, 0}};
    double centre[2] = {optical_centre_mm.x() / half, optical_centre_mm.y() / half};
    double lamp[2] = {0, 0};
    std::vector<std::array<double, 3>> level(flats.size());
    double weight = 1 / 0.003;
    for (int round = 0; round < 2; ++round) {
        progress.check();
        ceres::Problem problem;
        for (std::size_t k = 0; k < flats.size(); ++k) {
            if (round == 0)
                for (double& l : level[k]) l = std::log(flats[k].level + 1e-3);
            for (const FlatField::Block& block : flats[k].blocks) {
                const int c = static_cast<int>(block.channel);
                auto* cost = new ceres::AutoDiffCostFunction<BlockCost, 1, 3, 2, 2, 1>(
                    new BlockCost{std::log(block.mean), geometry.to_sensor(block.uv) / half, sign[k], weight});
                problem.AddResidualBlock(cost, new ceres::CauchyLoss(3.0), a[c], centre, lamp, &level[k][c]);
            }
        }
        if (!out.centre_measured) problem.SetParameterBlockConstant(centre);
        ceres::Solver::Options options;
        options.linear_solver_type = ceres::DENSE_NORMAL_CHOLESKY;
        options.max_num_iterations = 50;
        options.logging_type = ceres::SILENT;
        ceres::Solver::Summary summary;
        ceres::Solve(options, &problem, &summary);
        if (!summary.IsSolutionUsable()) throw input_error("No smooth falloff fits the flat fields: check that they show an evenly lit, plain surface.");

        // Residuals of each channel, and the noise for the second round.
        double sum[3] = {0, 0, 0};
        int count[3] = {0, 0, 0};
        std::vector<double> absolute;
        for (std::size_t k = 0; k < flats.size(); ++k)
            for (const FlatField::Block& block : flats[k].blocks) {
                const int c = static_cast<int>(block.channel);
                double r = 0;
                BlockCost{std::log(block.mean), geometry.to_sensor(block.uv) / half, sign[k], 1}(a[c], centre, lamp, &level[k][c], &r);
                absolute.push_back(std::abs(r));
                if (std::abs(r) < 0.1) {
                    sum[c] += r * r;
                    ++count[c];
                }
            }
        for (int c = 0; c < 3; ++c) out.residual_percent[c] = count[c] ? 100 * std::sqrt(sum[c] / count[c]) : 0;
        std::nth_element(absolute.begin(), absolute.begin() + absolute.size() / 2, absolute.end());
        weight = 1 / std::max(1e-5, absolute[absolute.size() / 2] * 1.4826);
        if (round == 0) continue;
        ceres::Covariance covariance({});
        const std::vector<std::pair<const double*, const double*>> wanted{{a[1], a[1]}};
        if (covariance.Compute(wanted, &problem)) {
            Eigen::Matrix<double, 3, 3, Eigen::RowMajor> c;
            covariance.GetCovarianceBlock(a[1], a[1], c.data());
            const Vec3 corner(1, 1, 1);
            out.sigma_percent = 100 * std::sqrt(std::max(0.0, corner.dot(c * corner))) / std::max(0.05, 1 + a[1][0] + a[1][1] + a[1][2]);
        }
    }
    for (int c = 0; c < 3; ++c)
        for (int t = 0; t < 3; ++t) out.a[c][t] = a[c][t];
    out.centre_mm = Vec2(centre[0], centre[1]) * half;
    return out;
}

}  // namespace optrel
