// SPDX-License-Identifier: GPL-3.0-or-later
#include <Eigen/LU>
#include <algorithm>
#include <array>
#include <cmath>
#include <map>
#include <opencv2/imgproc.hpp>
#include <random>

#include "base/cubic.h"
#include "base/error.h"
#include "base/median.h"
#include "base/parallel.h"
#include "optics/linear.h"
#include "scene/proposals.h"

namespace optrel {
namespace {

/// A plane with values at any place of the frame, by cubic convolution (Keys 1981).
class Asked {
public:
    Asked(const cv::Mat1f& values, double u0, double v0, double step)
        : values_(values), u0_(u0), v0_(v0), step_(step) {}

    bool covers(const Vec2& at, double margin) const {
        const double x = (at.x() - u0_) / step_, y = (at.y() - v0_) / step_, m = margin / step_ + 2;
        return x > m && y > m && x < values_.cols - 1 - m && y < values_.rows - 1 - m;
    }
    double operator()(const Vec2& at) const { return rise(at, Vec2::Zero()).value; }

    /// The value, and its derivative along a direction, per px.
    struct Rise {
        double value, slope;
    };
    Rise rise(const Vec2& at, const Vec2& along) const {
        const double x = (at.x() - u0_) / step_, y = (at.y() - v0_) / step_;
        const int ix = static_cast<int>(std::floor(x)), iy = static_cast<int>(std::floor(y));
        double wx[4], wy[4], sx[4], sy[4], value = 0, across = 0, down = 0;
        cubic_weights(x - ix, wx);
        cubic_weights(y - iy, wy);
        cubic_slopes(x - ix, sx);
        cubic_slopes(y - iy, sy);
        for (int j = 0; j < 4; ++j) {
            const float* p = values_.ptr<float>(iy - 1 + j) + ix - 1;
            const double row = wx[0] * p[0] + wx[1] * p[1] + wx[2] * p[2] + wx[3] * p[3];
            value += wy[j] * row;
            down += sy[j] * row;
            across += wy[j] * (sx[0] * p[0] + sx[1] * p[1] + sx[2] * p[2] + sx[3] * p[3]);
        }
        return {value, (across * along.x() + down * along.y()) / step_};
    }

private:
    const cv::Mat1f& values_;
    double u0_, v0_, step_;
};

struct EdgeSite {
    Vec2 place, across;
};

/// Places with strong slope, spread over the picture: the strongest ones of each cell.
std::vector<EdgeSite> edge_sites(const ScenePicture& green) {
    cv::Mat1f calm, gx, gy;
    cv::GaussianBlur(green.light, calm, {0, 0}, 1);
    cv::Sobel(calm, gx, CV_32F, 1, 0, 3, 0.125);
    cv::Sobel(calm, gy, CV_32F, 0, 1, 3, 0.125);
    constexpr int cells = 24, each = 120, margin = 8;
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

/// Displacement of a colour against green at one edge, px along its normal, with its variance.
struct Measured {
    Vec2 place, across;
    double displacement, variance;
};

/// Solves colour(t) = a + b green(t - d) over a profile across the edge, by Gauss-Newton on d.
std::optional<Measured> displacement_at(const EdgeSite& site, const Asked& green, const Asked& colour,
                                        const std::function<Vec2(const Vec2&)>& where) {
    constexpr int half = 10, lines = 2;
    constexpr double spacing = 0.8, apart = 2, reach = 14;  // px
    if (!green.covers(site.place, reach) || !colour.covers(where(site.place), reach)) return std::nullopt;
    double d = 0;
    Eigen::Matrix3d a;
    Vec3 b;
    double left = 0;
    constexpr int n = (2 * half + 1) * (2 * lines + 1);
    const Vec2 along(-site.across.y(), site.across.x());
    const auto place = [&](int line, int k) -> Vec2 {
        return site.place + site.across * (k * spacing) + along * (apart * line);
    };
    std::array<double, n> colours;
    for (int line = -lines, at = 0; line <= lines; ++line)
        for (int k = -half; k <= half; ++k) colours[at++] = colour(where(place(line, k)));
    for (int round = 0; round < 5; ++round) {
        a.setZero();
        b.setZero();
        double square = 0;
        // Several parallel lines across the edge, because aliasing differs between
        // them.
        for (int line = -lines, at = 0; line <= lines; ++line)
            for (int k = -half; k <= half; ++k) {
                const Vec2 from = place(line, k) - site.across * d;
                const auto [g, slope] = green.rise(from, site.across);
                const double c = colours[at++];
                const Vec3 row(1, g, -slope);
                a += row * row.transpose();
                b += row * c;
                square += c * c;
            }
        const Vec3 x = solve_symmetric(a, b);
        left = std::max(0.0, square - b.dot(x));
        if (!x.allFinite() || x(1) < 0.15) return std::nullopt;
        const double step = std::clamp(x(2) / x(1), -1.0, 1.0);
        d += step;
        if (std::abs(d) > 5) return std::nullopt;
        if (std::abs(step) < 1e-4) {
            // Profiles are sampled twice as finely as the colour, so only half of the samples are independent.
            const double variance = left / (0.5 * n - 3) * a.inverse()(2, 2) / (x(1) * x(1));
            // A real edge: green changes across it by much more than the residuals of the fit.
            const double step_size =
                std::abs(green(site.place + 4 * site.across) - green(site.place - 4 * site.across));
            if (step_size < 0.02 || std::sqrt(left / n) > 0.25 * x(1) * step_size) return std::nullopt;
            return Measured{site.place, site.across, d, std::max(1e-5, variance)};
        }
    }
    return std::nullopt;
}

/// Additional scatter of the displacements besides their variance, px; with it, half of them lie within 0.6745 sigma.
double excess(const std::vector<double>& residuals, const std::vector<Measured>& all) {
    double low = 0, high = 2;
    for (int round = 0; round < 30; ++round) {
        const double tried = 0.5 * (low + high);
        std::vector<double> sizes;
        sizes.reserve(all.size());
        for (std::size_t i = 0; i < all.size(); ++i)
            sizes.push_back(std::abs(residuals[i]) / std::sqrt(all[i].variance + tried * tried));
        (median(sizes) > 0.6745 ? low : high) = tried;
    }
    return high;
}

/// Displacement of a colour against green over the picture: s/H (corner - bow (1 - h^2)) + shift, px.
struct Spread {
    Vec2 centre = Vec2::Zero();
    double half_diagonal = 1;
    double corner = 0, bow = 0;
    Vec2 shift = Vec2::Zero();
    double corner_sigma = 0, bow_sigma = 0;

    Vec2 at(const Vec2& place) const {
        const Vec2 s = (place - centre) / half_diagonal;
        return s * (corner - bow_shape * bow * (1 - s.squaredNorm())) + shift;
    }
};

/// Solves d = n . spread for all edges with Cauchy weights. Edges in one part of the picture have correlated errors,
/// because they often belong to one object; so sigma is computed from parts, not from edges (Liang and Zeger 1986).
Spread solve_spread(const std::vector<Measured>& all, const Vec2& centre, double half_diagonal) {
    using Row = Eigen::Vector4d;  // corner, bow, shift
    const auto row_of = [&](const Measured& m) -> Row {
        const Vec2 s = (m.place - centre) / half_diagonal;
        const double out = m.across.dot(s);
        return {out, -bow_shape * out * (1 - s.squaredNorm()), m.across.x(), m.across.y()};
    };
    Row x = Row::Zero();
    Eigen::Matrix4d a;
    std::vector<double> weights(all.size(), 0), residuals(all.size(), 0);
    for (int round = 0; round < 15; ++round) {
        for (std::size_t i = 0; i < all.size(); ++i) residuals[i] = all[i].displacement - row_of(all[i]).dot(x);
        const double floor = excess(residuals, all);
        a.setZero();
        a(0, 0) = a(1, 1) = 1e-4;
        a(2, 2) = a(3, 3) = 1 / (0.3 * 0.3);  // prior: a shift is small
        Row b = Row::Zero();
        for (std::size_t i = 0; i < all.size(); ++i) {
            const double variance = all[i].variance + floor * floor;
            weights[i] = 1 / (1 + residuals[i] * residuals[i] / (4 * variance)) / variance;
            const Row row = row_of(all[i]);
            a += weights[i] * row * row.transpose();
            b += weights[i] * all[i].displacement * row;
        }
        x = solve_symmetric(a, b);
    }
    std::map<std::pair<int, int>, Row> parts;
    for (std::size_t i = 0; i < all.size(); ++i) {
        const Vec2 part = 8 * (all[i].place - centre) / half_diagonal;
        Row& sum = parts
                       .try_emplace({static_cast<int>(std::floor(part.x())), static_cast<int>(std::floor(part.y()))},
                                    Row::Zero())
                       .first->second;
        const Row row = row_of(all[i]);
        sum += weights[i] * (all[i].displacement - row.dot(x)) * row;
    }
    Eigen::Matrix4d middle = Eigen::Matrix4d::Zero();
    for (const auto& [part, sum] : parts) middle += sum * sum.transpose();
    // With few parts their scatter is uncertain.
    const double n = static_cast<double>(parts.size());
    const Eigen::Matrix4d covariance = a.inverse() * middle * a.inverse() * (n / std::max(1.0, n - 4));
    return {centre, half_diagonal, x(0), x(1), x.tail<2>(), std::sqrt(covariance(0, 0)), std::sqrt(covariance(1, 1))};
}

}  // namespace

ChromaticProposal propose_fringes(const MeasuringPicture& picture, const FrameMap& lens, const Progress& progress) {
    if (!picture.has(Channel::red) || !picture.has(Channel::blue))
        throw input_error(
            "The frame is monochrome, so it has no colours that could lie apart; choose a frame of a body with "
            "colours.");
    const ScenePicture green = scene_picture(picture);
    const Asked green_asked(green.light, green.u0, green.v0, green.step);
    const std::vector<EdgeSite> sites = edge_sites(green);
    ChromaticProposal out;
    const double half = 0.5 * std::hypot(picture.width, picture.height);
    for (const Channel channel : {Channel::red, Channel::blue}) {
        const SamplePlane* plane = picture.for_search(channel).front();
        const Asked colour(plane->values, plane->u0, plane->v0, plane->step);
        Spread found{lens.centre(), half};
        // The second pass starts from the result of the first, so that the samples of both colours show the same part
        // of the scene.
        for (int pass = 0; pass < 2; ++pass) {
            const auto known = [&](const Vec2& at) -> Vec2 {
                return pass == 0 ? lens.fringe_by_hand(channel, at) : found.at(at);
            };
            const auto where = [&](const Vec2& at) -> Vec2 {
                return lens.fringe(channel, at) - lens.fringe_by_hand(channel, at) + known(at);
            };
            // A part of the edges suffices for the first pass.
            const std::size_t every = pass == 0 ? 3 : 1;
            std::vector<std::optional<Measured>> measured((sites.size() + every - 1) / every);
            parallel_for(static_cast<int>(measured.size()), [&](int i) {
                if (!progress.cancelled()) measured[i] = displacement_at(sites[i * every], green_asked, colour, where);
            });
            progress.check();
            std::vector<Measured> good;
            for (const auto& m : measured) {
                if (!m) continue;
                good.push_back(*m);
                good.back().displacement += m->across.dot(known(m->place));
            }
            constexpr std::size_t enough = 40;
            if (good.size() < enough)
                throw input_error(
                    "The frame has too few edges to measure its colours by; set them by hand, or choose a frame with "
                    "detail.");
            found = solve_spread(good, lens.centre(), half);
            out.edges = std::max(out.edges, static_cast<int>(good.size()));
        }
        (channel == Channel::red ? out.red : out.blue) = {found.corner, found.corner_sigma, found.bow, found.bow_sigma};
    }
    constexpr double useless = 1;  // px
    if (std::max(out.red.corner_sigma, out.blue.corner_sigma) > useless)
        throw input_error("The frame's edges lie too near the middle to say how its colours lie in the corner.");
    return out;
}

}  // namespace optrel
