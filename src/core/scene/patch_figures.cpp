// SPDX-License-Identifier: GPL-3.0-or-later
#include "scene/patch_figures.h"

#include <fmt/format.h>

#include <Eigen/Core>
#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>
#include <optional>

#include "base/cubic.h"
#include "base/median.h"
#include "base/words.h"
#include "optics/coordinates.h"
#include "optics/linear.h"

namespace optrel {
namespace {

constexpr int reach = 6;  ///< samples to each side of an edge

/// Cubic convolution (Keys 1981), which widens edges only slightly.
float value_at(const cv::Mat1f& plane, const Vec2& at) {
    const int x = static_cast<int>(std::floor(at.x())), y = static_cast<int>(std::floor(at.y()));
    double wx[4], wy[4], sum = 0;
    cubic_weights(at.x() - x, wx);
    cubic_weights(at.y() - y, wy);
    for (int j = 0; j < 4; ++j) {
        const float* p = plane.ptr<float>(y - 1 + j) + x - 1;
        sum += wy[j] * (wx[0] * p[0] + wx[1] * p[1] + wx[2] * p[2] + wx[3] * p[3]);
    }
    return static_cast<float>(sum);
}

/// A channel across an edge, sampled every half sample.
using EdgeProfile = std::array<float, 4 * reach + 1>;

EdgeProfile profile_across(const cv::Mat1f& plane, const Vec2& at, const Vec2& across) {
    EdgeProfile out;
    for (int k = 0; k < static_cast<int>(out.size()); ++k)
        out[k] = value_at(plane, at + across * (0.5 * (k - 2 * reach)));
    return out;
}

/// The centroid of the slope towards the brighter side (samples from the middle), and the step.
struct EdgePlace {
    double offset = 0, step = 0;
};
std::optional<EdgePlace> edge_of(const EdgeProfile& p) {
    double sum = 0, first = 0;
    for (std::size_t k = 1; k < p.size(); ++k) {
        const double slope = std::max(0.f, p[k] - p[k - 1]);
        sum += slope * slope;
        first += slope * slope * 0.5 * (k - 0.5 - 2 * reach);
    }
    if (!(sum > 0)) return std::nullopt;
    const auto mean = [&](int from) { return (p[from] + p[from + 1] + p[from + 2]) / 3.0; };
    return EdgePlace{first / sum, mean(static_cast<int>(p.size()) - 3) - mean(0)};
}

/// Width from 10 to 90 percent of the step.
std::optional<double> width_of(const EdgeProfile& p) {
    const double low = std::min({p[0], p[1], p[2]}),
                 high = std::max({p[p.size() - 1], p[p.size() - 2], p[p.size() - 3]});
    if (!(high > low)) return std::nullopt;
    // A thin line or a corner is not a step.
    double path = 0;
    for (std::size_t k = 1; k < p.size(); ++k) path += std::abs(p[k] - p[k - 1]);
    if (path > 1.4 * (high - low)) return std::nullopt;
    const auto crossing = [&](double share) {
        const double wanted = low + share * (high - low);
        for (std::size_t k = 1; k < p.size(); ++k)
            if (p[k - 1] < wanted && p[k] >= wanted) return 0.5 * (k - 1 + (wanted - p[k - 1]) / (p[k] - p[k - 1]));
        return -1.0;
    };
    const double from = crossing(0.1), to = crossing(0.9);
    if (from < 0 || to < from) return std::nullopt;
    return to - from;
}

struct Displacement {
    Vec2 across;  ///< unit normal of the edge, towards the brighter side
    double red, blue;
};

/// The displacement that explains those across all edges: least squares with Cauchy weights and a weak prior at zero,
/// which decides when all edges are parallel.
double displacement(const std::vector<Displacement>& at, double Displacement::*which) {
    Vec2 d = Vec2::Zero();
    double scale = 1;
    for (int round = 0; round < 8; ++round) {
        Eigen::Matrix2d a = 1e-3 * at.size() * Eigen::Matrix2d::Identity();
        Vec2 b = Vec2::Zero();
        std::vector<double> off;
        for (const Displacement& e : at) {
            const double r = e.*which - e.across.dot(d), w = 1 / (1 + std::pow(r / scale, 2));
            a += w * e.across * e.across.transpose();
            b += w * (e.*which) * e.across;
            off.push_back(std::abs(r));
        }
        d = solve_symmetric(a, b);
        scale = std::max(0.02, 2 * median(off));
    }
    return d.norm();
}

}  // namespace

PatchFigures patch_figures(const std::array<cv::Mat1f, 3>& planes) {
    PatchFigures out;
    const cv::Mat1f& green = planes[1];
    out.light = cv::mean(green)[0];
    if (green.cols < 4 * reach || green.rows < 4 * reach) return out;
    cv::Mat1f gx, gy, calm;
    cv::GaussianBlur(green, calm, {0, 0}, 1);
    cv::Sobel(calm, gx, CV_32F, 1, 0, 3, 0.125);
    cv::Sobel(calm, gy, CV_32F, 0, 1, 3, 0.125);
    struct Candidate {
        float slope;
        int x, y;
    };
    std::vector<Candidate> candidates;
    std::vector<double> slopes;
    const int margin = reach + 2;
    for (int y = margin; y < green.rows - margin; ++y)
        for (int x = margin; x < green.cols - margin; ++x) {
            const float s = std::hypot(gx(y, x), gy(y, x));
            slopes.push_back(s);
            // A ridge of the slope: no neighbour across the edge is steeper.
            const int dx = static_cast<int>(std::lround(gx(y, x) / std::max(1e-12f, s))),
                      dy = static_cast<int>(std::lround(gy(y, x) / std::max(1e-12f, s)));
            const auto slope_at = [&](int ay, int ax) { return std::hypot(gx(ay, ax), gy(ay, ax)); };
            if (s >= slope_at(y + dy, x + dx) && s >= slope_at(y - dy, x - dx)) candidates.push_back({s, x, y});
        }
    if (candidates.empty()) return out;
    // Noise makes slopes too, so a slope counts when it is well above the usual one and above a hundredth of white.
    const double usual = median(slopes);
    std::sort(candidates.begin(), candidates.end(), [](const auto& a, const auto& b) { return a.slope > b.slope; });
    const double least = std::max({0.004, 6 * usual, 0.25 * candidates[candidates.size() / 200].slope});
    std::vector<Displacement> found;
    std::vector<double> widths;
    for (const Candidate& c : candidates) {
        constexpr std::size_t most = 600;
        if (c.slope < least || found.size() >= most) break;
        const Vec2 at(c.x, c.y), across = Vec2(gx(c.y, c.x), gy(c.y, c.x)).normalized();
        const EdgeProfile profile = profile_across(green, at, across);
        const auto g = edge_of(profile), r = edge_of(profile_across(planes[0], at, across)),
                   b = edge_of(profile_across(planes[2], at, across));
        constexpr double strong = 0.02;
        if (!g || !r || !b || g->step < strong || r->step < 0.2 * g->step || b->step < 0.2 * g->step) continue;
        found.push_back({across, r->offset - g->offset, b->offset - g->offset});
        if (const auto width = width_of(profile)) widths.push_back(*width);
    }
    constexpr std::size_t enough = 12;
    if (found.size() < enough) return out;
    out.edges = static_cast<int>(found.size());
    out.red_px = displacement(found, &Displacement::red);
    out.blue_px = displacement(found, &Displacement::blue);
    out.steps = static_cast<int>(widths.size());
    out.width_px = widths.size() < enough ? 0 : median(widths);
    return out;
}

std::string verdict(const std::vector<PatchPair>& patches) {
    constexpr double matters_px = 0.15, wider = 1.25;
    constexpr int sure = 60;  // with fewer edges, others may be measured before and after
    std::vector<std::string> cured, harmed, softer;
    int measured = 0;
    for (const PatchPair& p : patches) {
        if (p.before.edges == 0 || p.after.edges == 0) continue;
        ++measured;
        const double before = std::max(p.before.red_px, p.before.blue_px),
                     after = std::max(p.after.red_px, p.after.blue_px);
        if (after < before - matters_px) cured.push_back(p.name);
        if (after > before + matters_px) harmed.push_back(p.name);
        if (std::min(p.before.steps, p.after.steps) >= sure && p.after.width_px > wider * p.before.width_px)
            softer.push_back(p.name);
    }
    if (measured == 0) return "No patch has an edge to measure by; move the patches to where there is detail.";
    std::string out;
    if (harmed.empty() && cured.empty())
        out = fmt::format("Colours lie as well after the correction as before in all {} measured patches.", measured);
    else if (harmed.empty())
        out = fmt::format("Colours lie closer together in {} of {} measured patches, and nowhere further apart.",
                          cured.size(), measured);
    else if (cured.empty())
        out = fmt::format("The correction does harm: colours lie further apart in the {}, and nowhere closer.",
                          all_of(harmed));
    else
        out = fmt::format(
            "The correction helps in the {} and does harm in the {}: the lens is not centred as the profile "
            "says, or the profile is another copy's.",
            all_of(cured), all_of(harmed));
    if (!softer.empty())
        out +=
            fmt::format(" Edges are more than {:.0f} % wider afterwards in the {}.", 100 * (wider - 1), all_of(softer));
    return out;
}

}  // namespace optrel
