// SPDX-License-Identifier: GPL-3.0-or-later
#include <Eigen/Dense>
#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>
#include <random>

#include "base/cubic.h"
#include "base/error.h"
#include "base/median.h"
#include "base/parallel.h"
#include "scene/proposals.h"

namespace optrel {
namespace {

/// A plane that can be asked at any place of the frame, by cubic convolution (Keys 1981).
class Asked {
public:
    Asked(const cv::Mat1f& values, double u0, double v0, double step)
        : values_(values), u0_(u0), v0_(v0), step_(step) {}

    bool covers(const Vec2& at, double margin) const {
        const double x = (at.x() - u0_) / step_, y = (at.y() - v0_) / step_, m = margin / step_ + 2;
        return x > m && y > m && x < values_.cols - 1 - m && y < values_.rows - 1 - m;
    }
    double operator()(const Vec2& at) const {
        const double x = (at.x() - u0_) / step_, y = (at.y() - v0_) / step_;
        const int ix = static_cast<int>(std::floor(x)), iy = static_cast<int>(std::floor(y));
        double wx[4], wy[4], sum = 0;
        cubic_weights(x - ix, wx);
        cubic_weights(y - iy, wy);
        for (int j = 0; j < 4; ++j) {
            const float* p = values_.ptr<float>(iy - 1 + j) + ix - 1;
            sum += wy[j] * (wx[0] * p[0] + wx[1] * p[1] + wx[2] * p[2] + wx[3] * p[3]);
        }
        return sum;
    }

private:
    const cv::Mat1f& values_;
    double u0_, v0_, step_;
};

struct EdgeSite {
    Vec2 place, across;
};

/// Places of strong slope, spread over the picture: the strongest few of each cell.
std::vector<EdgeSite> edge_sites(const ScenePicture& green) {
    cv::Mat1f calm, gx, gy;
    cv::GaussianBlur(green.light, calm, {0, 0}, 1);
    cv::Sobel(calm, gx, CV_32F, 1, 0, 3, 0.125);
    cv::Sobel(calm, gy, CV_32F, 0, 1, 3, 0.125);
    constexpr int cells = 24, each = 40, margin = 8;
    struct Found {
        float slope;
        int x, y;
    };
    std::vector<std::vector<Found>> best(static_cast<std::size_t>(cells) * cells);
    const int w = green.light.cols, h = green.light.rows;
    for (int y = margin; y < h - margin; ++y)
        for (int x = margin; x < w - margin; ++x) {
            const float s = std::hypot(gx(y, x), gy(y, x));
            if (s < 0.004f) continue;
            const int dx = static_cast<int>(std::lround(gx(y, x) / s)),
                      dy = static_cast<int>(std::lround(gy(y, x) / s));
            const auto slope = [&](int ay, int ax) { return std::hypot(gx(ay, ax), gy(ay, ax)); };
            if (s < slope(y + dy, x + dx) || s < slope(y - dy, x - dx)) continue;
            best[static_cast<std::size_t>(y * cells / h) * cells + x * cells / w].push_back({s, x, y});
        }
    std::vector<EdgeSite> out;
    for (std::vector<Found>& cell : best) {
        const std::size_t keep = std::min<std::size_t>(each, cell.size());
        std::partial_sort(cell.begin(), cell.begin() + keep, cell.end(),
                          [](const Found& a, const Found& b) { return a.slope > b.slope; });
        for (std::size_t i = 0; i < keep; ++i)
            out.push_back({green.place({double(cell[i].x), double(cell[i].y)}),
                           Vec2(gx(cell[i].y, cell[i].x), gy(cell[i].y, cell[i].x)).normalized()});
    }
    return out;
}

/// One edge's displacement of a colour against green, px along its normal, with its variance.
struct Measured {
    Vec2 place, across;
    double displacement, variance;
};

/// Solves colour(t) = a + b green(t - d) over a profile across the edge, by Gauss and Newton's method on d.
std::optional<Measured> displacement_at(const EdgeSite& site, const Asked& green, const Asked& colour,
                                        const std::function<Vec2(const Vec2&)>& where) {
    constexpr int half = 10;
    constexpr double spacing = 0.5, reach = 9;  // px
    if (!green.covers(site.place, reach) || !colour.covers(where(site.place), reach)) return std::nullopt;
    double d = 0;
    Eigen::Matrix3d a;
    Vec3 b;
    double left = 0;
    constexpr int n = 2 * half + 1;
    for (int round = 0; round < 5; ++round) {
        a.setZero();
        b.setZero();
        double square = 0;
        for (int k = -half; k <= half; ++k) {
            const Vec2 at = site.place + site.across * (k * spacing), from = at - site.across * d;
            const double g = green(from), slope = (green(from + 0.5 * site.across) - green(from - 0.5 * site.across));
            const double c = colour(where(at));
            const Vec3 row(1, g, -slope);
            a += row * row.transpose();
            b += row * c;
            square += c * c;
        }
        const Vec3 x = a.ldlt().solve(b);
        left = std::max(0.0, square - b.dot(x));
        if (!x.allFinite() || x(1) < 0.15) return std::nullopt;
        const double step = std::clamp(x(2) / x(1), -1.0, 1.0);
        d += step;
        if (std::abs(d) > 5) return std::nullopt;
        if (std::abs(step) < 1e-4) {
            // Profiles are sampled twice as finely as the colour is, so that half of the samples count.
            const double variance = left / (0.5 * n - 3) * a.inverse()(2, 2) / (x(1) * x(1));
            // An edge: green changes across it by much more than the fit leaves.
            const double step_size =
                std::abs(green(site.place + 4 * site.across) - green(site.place - 4 * site.across));
            if (step_size < 0.02 || std::sqrt(left / n) > 0.25 * x(1) * step_size) return std::nullopt;
            return Measured{site.place, site.across, d, std::max(1e-5, variance)};
        }
    }
    return std::nullopt;
}

struct Corner {
    double px = 0, sigma = 0;
    int edges = 0;
};

/// d = n . (s k / H + shift) for all edges.
Corner solve_corner(const std::vector<Measured>& all, const Vec2& centre, double half_diagonal) {
    Vec3 x = Vec3::Zero();
    Eigen::Matrix3d covariance = Eigen::Matrix3d::Identity();
    double scale = 0.2;
    constexpr double floor = 0.02 * 0.02;  // interpolation between samples, px^2
    for (int round = 0; round < 15; ++round) {
        Eigen::Matrix3d a = Eigen::Matrix3d::Zero();
        a(1, 1) = a(2, 2) = 1 / (0.3 * 0.3);  // a shift is small
        a(0, 0) = 1e-4;
        Vec3 b = Vec3::Zero();
        std::vector<double> sizes;
        double freedom = 0, square = 0;
        for (const Measured& m : all) {
            const Vec3 row(m.across.dot(m.place - centre) / half_diagonal, m.across.x(), m.across.y());
            const double r = m.displacement - row.dot(x), sigma = std::sqrt(m.variance + floor);
            const double z = r / (sigma * std::max(1.0, scale)), weight = 1 / (1 + z * z / 4) / (sigma * sigma);
            a += weight * row * row.transpose();
            b += weight * m.displacement * row;
            sizes.push_back(std::abs(r) / sigma);
            square += z * z / (1 + z * z / 4);
            ++freedom;
        }
        x = a.ldlt().solve(b);
        scale = std::max(1.0, 1.4826 * median(sizes));
        covariance = a.inverse() * scale * scale;
    }
    return {x(0), std::sqrt(covariance(0, 0)), static_cast<int>(all.size())};
}

}  // namespace

FringeProposal propose_fringes(const MeasuringPicture& picture, const FrameMap& lens, const Progress& progress) {
    const ScenePicture green = scene_picture(picture);
    const Asked green_asked(green.light, green.u0, green.v0, green.step);
    const std::vector<EdgeSite> sites = edge_sites(green);
    FringeProposal out;
    for (const Channel channel : {Channel::red, Channel::blue}) {
        const auto plane = std::find_if(picture.planes.begin(), picture.planes.end(),
                                        [&](const SamplePlane& p) { return p.channel == channel; });
        const Asked colour(plane->values, plane->u0, plane->v0, plane->step);
        const auto where = [&](const Vec2& at) { return lens.fringe(channel, at); };
        std::vector<std::optional<Measured>> measured(sites.size());
        parallel_for(static_cast<int>(sites.size()), [&](int i) {
            if (!progress.cancelled()) measured[i] = displacement_at(sites[i], green_asked, colour, where);
        });
        progress.check();
        std::vector<Measured> good;
        for (const auto& m : measured)
            if (m) good.push_back(*m);
        constexpr std::size_t enough = 40;
        if (good.size() < enough)
            throw input_error(
                "The frame has too few edges to measure its colours by; set them by hand, or choose a frame with "
                "detail.");
        const double half = 0.5 * std::hypot(picture.width, picture.height);
        const Corner corner = solve_corner(good, lens.centre(), half);
        (channel == Channel::red ? out.red_px : out.blue_px) = corner.px;
        (channel == Channel::red ? out.red_sigma : out.blue_sigma) = corner.sigma;
        out.edges = std::max(out.edges, corner.edges);
    }
    constexpr double useless = 1;  // px
    if (std::max(out.red_sigma, out.blue_sigma) > useless)
        throw input_error("The frame's edges lie too near the middle to say how its colours lie in the corner.");
    return out;
}

}  // namespace optrel
