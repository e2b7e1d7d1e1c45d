#include "optics/frame_map.h"

#include <Eigen/QR>
#include <algorithm>
#include <cmath>

namespace optrel {

FrameMap::FrameMap(const ProfileNode& node, const PictureGeometry& reference, const PictureGeometry& geometry, CorrectionStrength strength)
    : geometry_(geometry),
      strength_(strength),
      model_(node.model),
      focal_px_(node.focal_mm / geometry.pitch_mm()),
      centre_px_(geometry.to_image(node.centre_mm)),
      reference_px_(reference.half_diagonal_mm() / geometry.pitch_mm()),
      monotonic_radius_(node.model.monotonic_radius()),
      falloff_(node.falloff),
      reference_mm_(reference.half_diagonal_mm()) {
    const auto take = [&](Channel channel, const std::optional<Fringe>& fringe) {
        if (fringe) fringe_[static_cast<int>(channel)] = {fringe->c0, fringe->c1, fringe->c2, fringe->shift_mm / geometry.pitch_mm()};
    };
    take(Channel::red, node.red);
    take(Channel::blue, node.blue);
    if (falloff_)
        for (int c = 0; c < 3; ++c) middle_[c] = falloff_->relative(static_cast<Channel>(c), Vec2::Zero(), reference_mm_);
}

Vec2 FrameMap::fringe(Channel channel, const Vec2& green) const {
    const ChannelFringe& f = fringe_[static_cast<int>(channel)];
    const Vec2 s = green - centre_px_;
    const double q = s.squaredNorm() / (reference_px_ * reference_px_);
    return green + strength_.fringe * (s * (f.c0 + q * (f.c1 + q * f.c2)) + f.shift_px);
}

double FrameMap::gain(Channel channel, const Vec2& frame) const {
    if (!falloff_ || strength_.vignetting == 0) return 1;
    const double relative = std::max(0.02, falloff_->relative(channel, geometry_.to_sensor(frame), reference_mm_));
    const double full = middle_[static_cast<int>(channel)] / relative;
    return strength_.vignetting == 1 ? full : std::pow(full, strength_.vignetting);
}

std::optional<Vec2> FrameMap::ideal(const Vec2& frame) const {
    const std::optional<Vec2> flat = model_.unbend((frame - centre_px_) / focal_px_);
    if (!flat) return std::nullopt;
    return centre_px_ + focal_px_ * *flat;
}

std::optional<Vec3> FrameMap::ray(const Vec2& frame) const {
    return model_.ray((frame - centre_px_) / focal_px_);
}

double distortion_percent(const ProfileNode& node, const PictureGeometry& geometry, double h) {
    const double r = h * geometry.half_diagonal_mm() / node.focal_mm;
    if (r <= 0) return 0;
    return 100 * (node.model.bent_radius(r) / r - 1);
}

double distortion_extreme_percent(const ProfileNode& node, const PictureGeometry& geometry) {
    double extreme = 0;
    for (int i = 1; i <= 200; ++i) {
        const double d = distortion_percent(node, geometry, i / 200.0);
        if (std::abs(d) > std::abs(extreme)) extreme = d;
    }
    return extreme;
}

std::vector<Vec2> picture_grid(const PictureGeometry& geometry, int across, int down) {
    std::vector<Vec2> points;
    points.reserve(static_cast<std::size_t>(across) * down);
    for (int j = 0; j < down; ++j)
        for (int i = 0; i < across; ++i) points.emplace_back(geometry.width * (i / (across - 1.0)), geometry.height * (j / (down - 1.0)));
    return points;
}

std::vector<double> field_sigma_px(const ProfileNode& node, const PictureGeometry& geometry, const std::vector<Vec2>& points, PointsOf of) {
    const int n = static_cast<int>(points.size()), p = static_cast<int>(node.covariance.rows());
    std::vector<double> sigma(n, 0.0);
    if (p != 3 + coefficient_count(node.model.kind())) return sigma;

    const double focal_px = node.focal_mm / geometry.pitch_mm();
    const Vec2 centre = geometry.to_image(node.centre_mm);
    std::vector<Vec3> rays;
    std::vector<int> reached;
    for (int i = 0; i < n; ++i) {
        const Vec2 at = (points[i] - centre) / focal_px;
        std::optional<Vec3> ray = of == PointsOf::frame ? node.model.ray(at) : Vec3(at.x(), at.y(), 1);
        if (of == PointsOf::ideal && !((at - node.model.axis()).norm() < node.model.monotonic_radius())) ray.reset();
        sigma[i] = std::nan("");
        if (!ray) continue;
        rays.push_back(*ray);
        reached.push_back(i);
    }
    const int m = static_cast<int>(rays.size());
    if (m < 8) return sigma;
    const auto land = [&](const LensModel& model, double focal_mm, const Vec2& centre_mm, const std::vector<Vec3>& directions) {
        Eigen::VectorXd out(2 * m);
        for (int i = 0; i < m; ++i) out.segment<2>(2 * i) = geometry.to_image(centre_mm + focal_mm * model.bend(directions[i]));
        return out;
    };
    // Numerical derivatives of the landing place by the parameters. Coefficients of a quotient can be uncertain by more than they
    // are while the mapping is not, so the steps are small as well as at most one sigma.
    const auto moved = [&](int k, double by) {
        LensModel::Coefficients c = node.model.coefficients();
        Vec2 centre_mm = node.centre_mm;
        if (k >= 3) c[k - 3] += by;
        if (k == 1 || k == 2) centre_mm[k - 1] += by;
        return land(LensModel(node.model.kind(), c), node.focal_mm + (k == 0 ? by : 0), centre_mm, rays);
    };
    Eigen::MatrixXd jacobian(2 * m, p);
    for (int k = 0; k < p; ++k) {
        const double step = std::clamp(std::sqrt(std::max(0.0, node.covariance(k, k))), 1e-9, k < 3 ? 1e-3 * node.focal_mm : 1e-4);
        jacobian.col(k) = (moved(k, step) - moved(k, -step)) / (2 * step);
    }
    // The gauge: generators of the rotations, and for rectilinear lenses of all homographies, of the directions.
    std::vector<Eigen::Matrix3d> generators;
    for (int r = 0; r < 3; ++r)
        for (int c = 0; c < 3; ++c) {
            Eigen::Matrix3d g = Eigen::Matrix3d::Zero();
            g(r, c) = 1;
            if (node.model.kind() == LensModelKind::equidistant) {
                if (r >= c) continue;
                g(c, r) = -1;
            } else if (r == 2 && c == 2) {
                continue;
            }
            generators.push_back(g);
        }
    Eigen::MatrixXd gauge(2 * m, generators.size());
    for (std::size_t k = 0; k < generators.size(); ++k) {
        std::vector<Vec3> plus = rays, minus = rays;
        for (int i = 0; i < m; ++i) {
            plus[i] += 1e-5 * generators[k] * rays[i];
            minus[i] -= 1e-5 * generators[k] * rays[i];
        }
        gauge.col(k) = (land(node.model, node.focal_mm, node.centre_mm, plus) - land(node.model, node.focal_mm, node.centre_mm, minus)) / 2e-5;
    }
    const Eigen::HouseholderQR<Eigen::MatrixXd> qr(gauge);
    const Eigen::MatrixXd basis = qr.householderQ() * Eigen::MatrixXd::Identity(2 * m, gauge.cols());
    const Eigen::MatrixXd rest = jacobian - basis * (basis.transpose() * jacobian);
    for (int i = 0; i < m; ++i) {
        const Eigen::MatrixXd rows = rest.middleRows<2>(2 * i);
        sigma[reached[i]] = std::sqrt(std::max(0.0, (rows * node.covariance * rows.transpose()).trace() / 2));
    }
    return sigma;
}

namespace {

/// How far (px) the border of the corrected picture at this scale looks beyond the frame, at the worst place; negative: inside.
double overshoot(const FrameMap& map, double scale) {
    const PictureGeometry& g = map.geometry();
    const double w = g.width, h = g.height;
    const auto at = [&](double t) {  // t in [0, 4) runs round the border
        const int side = std::min(3, static_cast<int>(t));
        const double f = t - side;
        const Vec2 p = side == 0 ? Vec2(f * w, 0) : side == 1 ? Vec2(w, f * h) : side == 2 ? Vec2((1 - f) * w, h) : Vec2(0, (1 - f) * h);
        const Vec2 ideal = g.middle() + (p - g.middle()) / scale;
        if (!map.reaches(ideal)) return 1e6;
        const Vec2 green = map.green(ideal);
        double worst = -1e9;
        for (const Channel channel : {Channel::red, Channel::green, Channel::blue}) {
            const Vec2 q = channel == Channel::green ? green : map.fringe(channel, green);
            worst = std::max({worst, -q.x(), -q.y(), q.x() - w, q.y() - h});
        }
        return worst;
    };
    const int samples = 512;
    double worst = -1e9;
    for (int side = 0; side < 4; ++side)
        for (int i = 0; i <= samples; ++i) worst = std::max(worst, at(std::min(side + i / double(samples), side + 1 - 1e-12)));
    return worst;
}

}  // namespace

double fill_scale(const FrameMap& map) {
    double low = 0.2, high = 1;
    while (overshoot(map, high) > 0 && high < 16) high *= 1.5;
    for (int i = 0; i < 40; ++i) {
        const double middle = 0.5 * (low + high);
        (overshoot(map, middle) > 0 ? low : high) = middle;
    }
    return high;
}

}  // namespace optrel
