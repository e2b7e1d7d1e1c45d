// SPDX-License-Identifier: GPL-3.0-or-later
#include "optics/uncertainty.h"

#include <Eigen/Core>
#include <algorithm>
#include <cmath>
#include <optional>

#include "optics/linear.h"
#include "optics/placement.h"

namespace optrel {
namespace {

constexpr double not_reached = std::numeric_limits<double>::quiet_NaN();
constexpr int gauge_across = 25, gauge_down = 17;

/// Landing positions (px) of the light from directions of any length.
Vec2 land(const LensModel& model, double focal_px, const Vec2& centre, const Vec3& direction) {
    return centre + focal_px * model.bend(direction);
}

/// Removes from vector fields over the picture what a rotation of the camera explains. The fields are known on a grid
/// over the picture and at the requested points. The grid alone determines what is removed, so the result at one point
/// does not depend on the other points.
class Gauge {
public:
    Gauge(const ProfileNode& node, const PictureGeometry& geometry, const std::vector<Vec3>& grid,
          const std::vector<Vec3>& points) {
        const double focal = node.focal_mm / geometry.pitch_mm();
        const Vec2 centre = geometry.to_image(node.centre_mm);
        const bool rotation = node.model.kind()->angular();
        for (int r = 0; r < 3; ++r)
            for (int c = 0; c < 3; ++c) {
                if (rotation ? r >= c : r == 2 && c == 2) continue;
                Eigen::Matrix3d g = Eigen::Matrix3d::Zero();
                g(r, c) = 1;
                if (rotation) g(c, r) = -1;
                generators_.push_back(g);
            }
        const auto field = [&](const std::vector<Vec3>& rays) {
            Eigen::MatrixXd out(2 * rays.size(), generators_.size());
            for (std::size_t k = 0; k < generators_.size(); ++k)
                for (std::size_t i = 0; i < rays.size(); ++i) {
                    const Vec3 by = 1e-5 * generators_[k] * rays[i];
                    out.block<2, 1>(2 * i, k) = (land(node.model, focal, centre, rays[i] + by) -
                                                 land(node.model, focal, centre, rays[i] - by)) /
                                                2e-5;
                }
            return out;
        };
        on_grid_ = field(grid);
        at_points_ = field(points);
        solver_.emplace(on_grid_);
    }

    /// Columns are fields; returns their remainders at the points.
    Eigen::MatrixXd rest(const Eigen::MatrixXd& on_grid, const Eigen::MatrixXd& at_points) const {
        return at_points - at_points_ * solver_->solve(on_grid);
    }

private:
    std::vector<Eigen::Matrix3d> generators_;
    Eigen::MatrixXd on_grid_, at_points_;
    std::optional<LeastSquares> solver_;
};

/// Directions of those points that the model reaches.
struct Rays {
    std::vector<Vec3> rays;
    std::vector<std::size_t> of;  ///< index of the point
};

Rays rays_of(const ProfileNode& node, const PictureGeometry& geometry, const std::vector<Vec2>& points, PointsOf of) {
    const double focal = node.focal_mm / geometry.pitch_mm();
    const Vec2 centre = geometry.to_image(node.centre_mm);
    Rays out;
    for (std::size_t i = 0; i < points.size(); ++i) {
        const Vec2 at = (points[i] - centre) / focal;
        std::optional<Vec3> ray = of == PointsOf::frame ? node.model.ray(at) : Vec3(at.x(), at.y(), 1);
        if (of == PointsOf::ideal && !((at - node.model.axis()).norm() < node.model.monotonic_radius())) ray.reset();
        if (!ray) continue;
        out.rays.push_back(*ray);
        out.of.push_back(i);
    }
    return out;
}

/// Derivatives of the landing positions by (F mm, cx mm, cy mm, coefficients), in px. Coefficients of a quotient can
/// have an uncertainty larger than their values although the mapping is well known, so the steps are small as well as
/// at most one sigma.
Eigen::MatrixXd parameter_field(const ProfileNode& node, const PictureGeometry& geometry,
                                const std::vector<Vec3>& rays) {
    const int p = static_cast<int>(node.covariance.rows());
    Eigen::MatrixXd out(2 * rays.size(), p);
    for (int k = 0; k < p; ++k) {
        const double step =
            std::clamp(std::sqrt(std::max(0.0, node.covariance(k, k))), 1e-9, k < 3 ? 1e-3 * node.focal_mm : 1e-4);
        const auto moved = [&](double by) {
            LensModel::Coefficients c = node.model.coefficients();
            Vec2 centre = node.centre_mm;
            if (k >= 3) c[k - 3] += by;
            if (k == 1 || k == 2) centre[k - 1] += by;
            const LensModel model = LensModel(node.model.kind(), c).with_aspect(node.model.aspect());
            const double focal = (node.focal_mm + (k == 0 ? by : 0)) / geometry.pitch_mm();
            const Vec2 middle = geometry.to_image(centre);
            Eigen::VectorXd at(2 * rays.size());
            for (std::size_t i = 0; i < rays.size(); ++i) at.segment<2>(2 * i) = land(model, focal, middle, rays[i]);
            return at;
        };
        out.col(k) = (moved(step) - moved(-step)) / (2 * step);
    }
    return out;
}

void add_node(FieldCovariance& out, const ProfileNode& node, const PictureGeometry& geometry,
              const std::vector<Vec2>& points, PointsOf of, double weight) {
    const Rays asked = rays_of(node, geometry, points, of);
    std::vector<bool> reached(points.size(), false);
    for (const std::size_t i : asked.of) reached[i] = true;
    for (std::size_t i = 0; i < points.size(); ++i)
        if (!reached[i]) out.at[i].setConstant(not_reached);
    if (node.covariance.rows() != 3 + node.model.kind()->coefficient_count()) return;
    const Rays grid = rays_of(node, geometry, picture_grid(geometry, gauge_across, gauge_down), of);
    if (grid.rays.size() < 8) return;
    const Gauge gauge(node, geometry, grid.rays, asked.rays);
    const Eigen::MatrixXd rest =
        gauge.rest(parameter_field(node, geometry, grid.rays), parameter_field(node, geometry, asked.rays));
    for (std::size_t k = 0; k < asked.of.size(); ++k) {
        const Eigen::Matrix<double, 2, Eigen::Dynamic> rows = rest.middleRows<2>(2 * k);
        out.at[asked.of[k]] +=
            weight * weight *
            (rows * node.covariance * rows.transpose() + node.misfit_px * node.misfit_px * Eigen::Matrix2d::Identity());
    }
}

/// Displacements of a node (px of the geometry) at ideal positions (mm from the optical centre).
Eigen::VectorXd displacement(const ProfileNode& node, const PictureGeometry& geometry, const std::vector<Vec2>& at_mm) {
    Eigen::VectorXd out(2 * at_mm.size());
    for (std::size_t i = 0; i < at_mm.size(); ++i) {
        const Vec2 xy = at_mm[i] / node.focal_mm;
        // Outside its range a model has no value; the value at its edge is used.
        const double reach = 0.999 * node.model.monotonic_radius(), r = xy.norm();
        const Vec2 within = r > reach ? Vec2(xy * (reach / r)) : xy;
        out.segment<2>(2 * i) = (node.focal_mm * (node.model.bend(within) - within)) / geometry.pitch_mm();
    }
    return out;
}

/// Adds the uncertainty of a setting that was not measured.
void add_doubts(FieldCovariance& out, const Profile& profile, const PlacedNode& placed, const PictureGeometry& geometry,
                const std::vector<Vec2>& points) {
    if (placed.doubts.empty()) return;
    const ProfileNode& node = placed.node;
    const Rays grid = rays_of(node, geometry, picture_grid(geometry, gauge_across, gauge_down), PointsOf::ideal),
               asked = rays_of(node, geometry, points, PointsOf::ideal);
    if (grid.rays.size() < 8) return;
    const auto in_mm = [&](const Rays& rays) {
        std::vector<Vec2> at;
        for (const Vec3& ray : rays.rays) at.push_back(node.focal_mm * Vec2(ray.x(), ray.y()) / ray.z());
        return at;
    };
    const std::vector<Vec2> grid_mm = in_mm(grid), asked_mm = in_mm(asked);
    Eigen::MatrixXd on_grid = Eigen::MatrixXd::Zero(2 * grid_mm.size(), placed.doubts.size()),
                    at_points = Eigen::MatrixXd::Zero(2 * asked_mm.size(), placed.doubts.size());
    std::vector<std::optional<std::pair<Eigen::VectorXd, Eigen::VectorXd>>> known(profile.nodes.size());
    for (std::size_t k = 0; k < placed.doubts.size(); ++k)
        for (const auto& [i, w] : placed.doubts[k]) {
            if (!known[i])
                known[i].emplace(displacement(profile.nodes[i], geometry, grid_mm),
                                 displacement(profile.nodes[i], geometry, asked_mm));
            on_grid.col(k) += w * known[i]->first;
            at_points.col(k) += w * known[i]->second;
        }
    const Eigen::MatrixXd rest = Gauge(node, geometry, grid.rays, asked.rays).rest(on_grid, at_points);
    for (std::size_t k = 0; k < asked.of.size(); ++k) {
        const Eigen::Matrix<double, 2, Eigen::Dynamic> rows = rest.middleRows<2>(2 * k);
        out.at[asked.of[k]] += rows * rows.transpose();
    }
}

/// Sigma of a sum of node values: the weighted variance of each node, and the interpolation errors as sums of the
/// values themselves.
template <class Value, class Variance>
double sigma_of(const PlacedNode& placed, const Value& value, const Variance& variance) {
    double total = 0;
    for (const auto& [i, w] : placed.parts) total += w * w * variance(i);
    for (const auto& doubt : placed.doubts) {
        double sum = 0;
        for (const auto& [i, w] : doubt) sum += w * value(i);
        total += sum * sum;
    }
    return std::sqrt(std::max(0.0, total));
}

}  // namespace

std::vector<double> FieldCovariance::sigma() const {
    std::vector<double> out;
    for (const Eigen::Matrix2d& c : at) out.push_back(std::sqrt(std::max(0.0, c.trace() / 2)));
    for (std::size_t i = 0; i < at.size(); ++i)
        if (std::isnan(at[i](0, 0))) out[i] = not_reached;
    return out;
}

FieldCovariance field_covariance(const ProfileNode& node, const PictureGeometry& geometry,
                                 const std::vector<Vec2>& points, PointsOf of) {
    FieldCovariance out{std::vector<Eigen::Matrix2d>(points.size(), Eigen::Matrix2d::Zero())};
    add_node(out, node, geometry, points, of, 1);
    return out;
}

FieldCovariance mapping_covariance(const Profile& profile, const PlacedNode& placed, const PictureGeometry& geometry,
                                   const std::vector<Vec2>& points) {
    FieldCovariance out{std::vector<Eigen::Matrix2d>(points.size(), Eigen::Matrix2d::Zero())};
    for (const auto& [i, w] : placed.parts) add_node(out, profile.nodes[i], geometry, points, PointsOf::ideal, w);
    add_doubts(out, profile, placed, geometry, points);
    return out;
}

std::vector<double> field_sigma_px(const ProfileNode& node, const PictureGeometry& geometry,
                                   const std::vector<Vec2>& points, PointsOf of) {
    return field_covariance(node, geometry, points, of).sigma();
}

std::vector<double> mapping_sigma_px(const Profile& profile, const PlacedNode& placed, const PictureGeometry& geometry,
                                     const std::vector<Vec2>& points) {
    return mapping_covariance(profile, placed, geometry, points).sigma();
}

double chromatic_sigma_px(const Profile& profile, const PlacedNode& placed, Channel channel, double radius_mm) {
    const double pitch = profile.geometry.pitch_mm(), half = profile.geometry.half_diagonal_mm();
    const double q = radius_mm * radius_mm / (half * half);
    const Eigen::Vector3d terms = radius_mm * Eigen::Vector3d(1, q, q * q);
    const auto of = [&](int i) -> const std::optional<LateralChromatic>& {
        return channel == Channel::red ? profile.nodes[i].red : profile.nodes[i].blue;
    };
    const auto value = [&](int i) {
        return of(i) ? terms.dot(Eigen::Vector3d(of(i)->c0, of(i)->c1, of(i)->c2)) / pitch : 0.0;
    };
    const auto variance = [&](int i) {
        if (!of(i)) return 0.0;
        // The shift contributes with its mean over all directions, because it adds to the terms in some directions and
        // reduces them in others.
        const double radial = terms.dot(of(i)->covariance.topLeftCorner<3, 3>() * terms),
                     shift = 0.5 * of(i)->covariance.bottomRightCorner<2, 2>().trace();
        // The terms are centred on the perspective, but colours separate about the optical axis, which the model may
        // place elsewhere. The effect of this besides a shift grows with the terms themselves.
        const double beside = profile.nodes[i].focal_mm * profile.nodes[i].model.axis().norm(),
                     off_centre = beside * (of(i)->c1 * (3 * q - 1) + of(i)->c2 * (5 * q * q - 1));
        return (radial + shift + 0.5 * off_centre * off_centre) / (pitch * pitch) + of(i)->misfit_px * of(i)->misfit_px;
    };
    return sigma_of(placed, value, variance);
}

double falloff_sigma_ev(const Profile& profile, const PlacedNode& placed, Channel channel, double radius_mm) {
    const double half = profile.geometry.half_diagonal_mm(), q = radius_mm * radius_mm / (half * half);
    const int c = static_cast<int>(channel);
    const Eigen::Vector4d terms(q, q * q, q * q * q, q * q * q * q);
    const auto light = [&](int i) {
        return 1 + terms.dot(Eigen::Map<const Eigen::Vector4d>(profile.nodes[i].falloff->a[c].data()));
    };
    const auto value = [&](int i) {
        const auto& f = profile.nodes[i].falloff;
        if (!f) return 0.0;
        return (f->reciprocal ? -1 : 1) * std::log2(std::max(0.01, light(i)));
    };
    const auto variance = [&](int i) {
        const auto& f = profile.nodes[i].falloff;
        if (!f) return 0.0;
        const double per_ev = 1 / (std::log(2.0) * std::max(0.01, light(i))),
                     misfit = f->misfit_percent[c] / 100 / std::log(2.0);
        return terms.dot(f->covariance[c] * terms) * per_ev * per_ev + misfit * misfit;
    };
    return sigma_of(placed, value, variance);
}

}  // namespace optrel
