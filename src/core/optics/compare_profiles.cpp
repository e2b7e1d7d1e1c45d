// SPDX-License-Identifier: GPL-3.0-or-later
#include "optics/compare_profiles.h"

#include <fmt/format.h>

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>

#include "base/error.h"
#include "base/figure_text.h"
#include "optics/frame_map.h"
#include "optics/linear.h"
#include "optics/uncertainty.h"

namespace optrel {
namespace {

/// Differences that two good measurements still have, because of the chart, the air and the paper.
constexpr double repeat_floor_px = 0.01, repeat_floor_ev = 0.01;

Vec2 land(const ProfileNode& n, const PictureGeometry& g, const Vec3& ray) {
    return g.to_image(n.centre_mm + n.focal_mm * n.model.bend(ray));
}

/// True when the picture shows angles beyond 60 degrees, where no homography of the scene applies.
bool sees_angles(const ProfileNode& node, const PictureGeometry& g) {
    if (!node.model.kind()->angular()) return false;
    const std::optional<Vec3> corner = FrameMap(node, g, g).ray({0, 0});
    return !corner || corner->z() < 0.5;
}

/// Residuals land(node, G ray) - place, with G the rotation or homography of the rays that fits best (Gauss-Newton).
Eigen::VectorXd best_fit(const ProfileNode& node, const PictureGeometry& g, const std::vector<Vec3>& rays,
                         const std::vector<Vec2>& places, bool rotation_only) {
    const int unknowns = rotation_only ? 3 : 8, n = static_cast<int>(rays.size());
    const auto residuals = [&](const Eigen::VectorXd& k) {
        Eigen::Matrix3d m;
        if (rotation_only)
            m = k.norm() > 0 ? Eigen::AngleAxisd(k.norm(), Vec3(k / k.norm())).toRotationMatrix()
                             : Eigen::Matrix3d::Identity();
        else
            m << 1 + k(0), k(1), k(2), k(3), 1 + k(4), k(5), k(6), k(7), 1;
        Eigen::VectorXd r(2 * n);
        for (int i = 0; i < n; ++i) r.segment<2>(2 * i) = land(node, g, m * rays[i]) - places[i];
        return r;
    };
    Eigen::VectorXd k = Eigen::VectorXd::Zero(unknowns);
    for (int round = 0; round < 6; ++round) {
        const Eigen::VectorXd r = residuals(k);
        Eigen::MatrixXd jacobian(2 * n, unknowns);
        for (int u = 0; u < unknowns; ++u) {
            Eigen::VectorXd moved = k;
            moved(u) += 1e-6;
            jacobian.col(u) = (residuals(moved) - r) / 1e-6;
        }
        k -= least_squares(jacobian, r);
    }
    return residuals(k);
}

/// RMS of a vector field after removing the part that is radial about `centre` and equal in all
/// directions.
double one_sided_rms(const std::vector<Vec2>& places, const std::vector<Vec2>& field, const Vec2& centre,
                     double scale) {
    Eigen::MatrixXd rows(2 * places.size(), 4);
    Eigen::VectorXd right(2 * places.size());
    for (std::size_t i = 0; i < places.size(); ++i) {
        const Vec2 s = (places[i] - centre) / scale;
        const double q = s.squaredNorm();
        for (int t = 0; t < 4; ++t) rows.block<2, 1>(2 * i, t) = s * std::pow(q, t);
        right.segment<2>(2 * i) = field[i];
    }
    const Eigen::VectorXd rest = right - rows * least_squares(rows, right);
    return std::sqrt(rest.squaredNorm() / places.size());
}

}  // namespace

std::string to_string(RepeatVerdict verdict) {
    switch (verdict) {
        case RepeatVerdict::drifted: return "drifted";
        case RepeatVerdict::damaged: return "damaged";
        case RepeatVerdict::differs: return "differs";
        default: return "agrees";
    }
}

SameLens same_lens(const Profile& a, const Profile& b) {
    if (compare_lens_texts(a.lens, b.lens) == LensTextMatch::different) return SameLens::other_lens;
    if (a.lens_serial.empty() || b.lens_serial.empty()) return SameLens::copy_unknown;
    return a.lens_serial == b.lens_serial ? SameLens::one_copy : SameLens::other_copy;
}

namespace {

const char* in_words(SameLens of) {
    switch (of) {
        case SameLens::other_lens: return "Two different lenses: ";
        case SameLens::other_copy: return "Two copies of one lens: ";
        case SameLens::other_setting: return "Two lens settings: ";
        case SameLens::copy_unknown: return "Whether it is one copy is not known: ";
        default: return "";
    }
}

}  // namespace

std::string ProfileDifference::sentence() const {
    std::string said = fmt::format(
        "the mapping differs by {} RMS and {} at most ({:.1f} times the uncertainty){}",
        figure_text(figures::shift, rms_px), figure_text(figures::shift, largest_px), in_sigmas,
        ev.empty() ? "" : fmt::format(", falloff by {} at most", figure_text(figures::falloff, largest_ev)));
    if (focal_sigma_mm > 0)
        said += fmt::format(", the focal length by {}, the principal point by {} and {} (one sigma)",
                            figure_text(figures::length_change, focal_mm, focal_sigma_mm),
                            number_text(figures::shift_along, centre_px.x(), centre_sigma_px.x()),
                            figure_text(figures::shift_along, centre_px.y(), centre_sigma_px.y()));
    const std::string whose = in_words(of);
    const auto begun = [&](const char* word) { return whose.empty() ? fmt::format("{}: ", word) : whose; };
    switch (verdict) {
        case RepeatVerdict::drifted: return begun("Drifted") + said + ", alike in all directions.";
        case RepeatVerdict::damaged:
            return begun("Damaged") + said +
                   fmt::format("; {} RMS of it are to one side, as an element that has moved would do.",
                               figure_text(figures::shift, one_sided_px));
        case RepeatVerdict::differs: return begun("Differs") + said + ".";
        default: return (whose.empty() ? "Agrees: " : whose + "they agree; ") + said + ".";
    }
}

namespace {

/// Two figures disagree when their difference exceeds their uncertainty by this factor.
constexpr double agreement = 2;

/// Focal length and principal point, with the uncertainty of both measurements.
void compare_cameras(const ProfileNode& a, const ProfileNode& b, const PictureGeometry& g, ProfileDifference& out) {
    if (a.covariance.rows() < 3 || b.covariance.rows() < 3) return;
    const auto sigma = [&](int k, double floor) {
        return std::sqrt(std::max(0.0, a.covariance(k, k)) + std::max(0.0, b.covariance(k, k)) + floor * floor);
    };
    const double floor_mm = repeat_floor_px * g.pitch_mm();
    out.focal_mm = b.focal_mm - a.focal_mm;
    // A board whose size is known to one part in ten thousand limits the focal length to the same share.
    out.focal_sigma_mm = sigma(0, 1e-4 * a.focal_mm);
    out.centre_px = (b.centre_mm - a.centre_mm) / g.pitch_mm();
    out.centre_sigma_px = Vec2(sigma(1, floor_mm), sigma(2, floor_mm)) / g.pitch_mm();
}

bool cameras_agree(const ProfileDifference& d) {
    if (d.focal_sigma_mm <= 0) return true;
    return std::abs(d.focal_mm) <= agreement * d.focal_sigma_mm &&
           std::abs(d.centre_px.x()) <= agreement * d.centre_sigma_px.x() &&
           std::abs(d.centre_px.y()) <= agreement * d.centre_sigma_px.y();
}

}  // namespace

ProfileDifference compare_nodes(const ProfileNode& a, const ProfileNode& b, const PictureGeometry& g, SameLens of) {
    ProfileDifference out;
    out.of = of;
    compare_cameras(a, b, g, out);
    const std::vector<Vec2> grid = picture_grid(g, 21, 15);
    const FrameMap map_a(a, g, g), map_b(b, g, g);
    const std::vector<double> sigma_a = field_sigma_px(a, g, grid, PointsOf::frame),
                              sigma_b = field_sigma_px(b, g, grid, PointsOf::frame);
    std::vector<Vec3> rays;
    for (std::size_t i = 0; i < grid.size(); ++i) {
        const std::optional<Vec3> ray = map_a.ray(grid[i]);
        if (!ray || (!b.model.kind()->angular() && ray->z() < 0.05)) continue;
        rays.push_back(*ray);
        out.places.push_back(grid[i]);
        const auto known = [](double s) { return s > 0 ? s : 0.0; };
        out.px_sigma.push_back(std::sqrt(known(sigma_a[i]) * known(sigma_a[i]) + known(sigma_b[i]) * known(sigma_b[i]) +
                                         repeat_floor_px * repeat_floor_px));
    }
    if (rays.size() < 40)
        throw input_error(
            "The two lens settings have too little of the picture in common to be compared; choose settings of the "
            "same focal length.");
    const Eigen::VectorXd r = best_fit(b, g, rays, out.places, sees_angles(a, g));
    double normalised = 0;
    for (std::size_t i = 0; i < rays.size(); ++i) {
        const Vec2 d = r.segment<2>(2 * static_cast<Eigen::Index>(i));
        out.px.push_back(d);
        out.rms_px += d.squaredNorm() / rays.size();
        out.largest_px = std::max(out.largest_px, d.norm());
        normalised += d.squaredNorm() / (2 * out.px_sigma[i] * out.px_sigma[i]) / rays.size();
    }
    out.rms_px = std::sqrt(out.rms_px);
    out.in_sigmas = std::sqrt(normalised);
    out.one_sided_px = one_sided_rms(out.places, out.px, map_a.centre(), g.half_diagonal_px());
    if (a.falloff && b.falloff)
        for (const Vec2& at : out.places) {
            out.ev.push_back(std::log2(map_a.gain(Channel::green, at) / map_b.gain(Channel::green, at)));
            if (std::abs(out.ev.back()) > std::abs(out.largest_ev)) out.largest_ev = out.ev.back();
        }
    const double ev_limit =
        a.falloff && b.falloff
            ? agreement * std::hypot(repeat_floor_ev,
                                     1.44 * 0.01 * std::hypot(a.falloff->sigma_percent, b.falloff->sigma_percent))
            : 1e9;
    if (out.in_sigmas <= agreement && std::abs(out.largest_ev) <= ev_limit && cameras_agree(out)) return out;
    const bool to_one_side =
        out.in_sigmas > agreement && out.one_sided_px > 0.5 * out.rms_px && out.one_sided_px > 0.05;
    if (of != SameLens::one_copy)
        out.verdict = RepeatVerdict::differs;
    else
        out.verdict = to_one_side ? RepeatVerdict::damaged : RepeatVerdict::drifted;
    return out;
}

ProfileDifference compare_profiles(const Profile& a, const Profile& b, LensSetting& at) {
    const auto within = [](const Profile& p, const LensSetting& s) {
        return node_at(p, s).placement != Placement::extrapolated;
    };
    bool common = at.focal_mm > 0 || at.aperture > 0 || at.distance_m > 0;
    for (const Profile* p : {&b, &a})
        for (const ProfileNode& n : p->nodes)
            if (!common && within(a, n.setting) && within(b, n.setting)) {
                at = n.setting;
                common = true;
            }
    if (!common || !within(a, at) || !within(b, at))
        throw input_error(fmt::format(
            "The two profiles have no lens setting in common{}: one was measured at {}, the other at {}; choose a "
            "setting that both reach.",
            common ? fmt::format(" at {}", to_string(at)) : "", to_string(a.nodes.front().setting),
            to_string(b.nodes.front().setting)));
    return compare_nodes(node_at(a, at).node, node_at(b, at).node, b.geometry, same_lens(a, b));
}

double decentring_px(const ProfileNode& node, const PictureGeometry& g) {
    ProfileNode even = node;
    LensModel::Coefficients c = node.model.coefficients();
    c.tail(node.model.kind()->decentring_count()).setZero();
    even.model = LensModel(node.model.kind(), c).with_aspect(node.model.aspect());
    const FrameMap map(node, g, g);
    std::vector<Vec3> rays;
    std::vector<Vec2> places;
    for (const Vec2& at : picture_grid(g, 15, 11))
        if (const std::optional<Vec3> ray = map.ray(at)) {
            rays.push_back(*ray);
            places.push_back(at);
        }
    if (rays.size() < 40) return 0;
    const Eigen::VectorXd r = best_fit(even, g, rays, places, sees_angles(node, g));
    double largest = 0;
    for (std::size_t i = 0; i < rays.size(); ++i)
        largest = std::max(largest, r.segment<2>(2 * static_cast<Eigen::Index>(i)).norm());
    return largest;
}

}  // namespace optrel
