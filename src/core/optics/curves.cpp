// SPDX-License-Identifier: GPL-3.0-or-later
#include "optics/curves.h"

#include <algorithm>
#include <cmath>

namespace optrel {
namespace {

LensCurve distortion_curve(const Profile& profile, const PlacedNode& placed, int steps) {
    const PictureGeometry& g = profile.geometry;
    const double half_px = g.half_diagonal_px();
    // The radial sigma, as the mean over the two diagonals and their ends.
    const Vec2 ends[] = {Vec2(g.width, g.height) / 2, Vec2(-g.width, g.height) / 2, Vec2(g.width, -g.height) / 2,
                         Vec2(-g.width, -g.height) / 2};
    std::vector<Vec2> points;
    for (int i = 0; i <= steps; ++i)
        for (const Vec2& end : ends) points.push_back(g.middle() + double(i) / steps * end);
    const FieldCovariance field = mapping_covariance(profile, placed, g, points);
    LensCurve out;
    for (int i = 0; i <= steps; ++i) {
        const double h = double(i) / steps;
        double variance = 0;
        int reached = 0;
        for (int k = 0; k < 4; ++k) {
            const Eigen::Matrix2d& c = field.at[4 * i + k];
            if (std::isnan(c(0, 0))) continue;
            const Vec2 u = ends[k].normalized();
            variance += u.dot(c * u);
            ++reached;
        }
        const double sigma = reached ? std::sqrt(variance / reached) : 0;
        out.samples.push_back({h, distortion_percent(placed.node, g, h), i == 0 ? 0 : 100 * sigma / (h * half_px)});
    }
    return out;
}

LensCurve fringe_curve(const Profile& profile, const PlacedNode& placed, const FrameMap& map, Channel channel,
                       int steps) {
    const PictureGeometry& g = profile.geometry;
    const double half_px = g.half_diagonal_px();
    LensCurve out{channel, {}};
    for (int i = 0; i <= steps; ++i) {
        // The mean over opposite directions, so that a shift by decentring does not bend the curve.
        const double r = i * half_px / steps;
        double radial = 0;
        for (int k = 0; k < 8; ++k) {
            const double a = k * 0.785398163;
            const Vec2 u(std::cos(a), std::sin(a)), at = map.centre() + r * u;
            radial += u.dot(map.fringe(channel, at) - at) / 8;
        }
        out.samples.push_back(
            {double(i) / steps, radial, chromatic_sigma_px(profile, placed, channel, r * g.pitch_mm())});
    }
    return out;
}

LensCurve falloff_curve(const Profile& profile, const PlacedNode& placed, Channel channel, int steps) {
    const double half = profile.geometry.half_diagonal_mm();
    const Falloff& f = *placed.node.falloff;
    LensCurve out{channel, {}};
    for (int i = 0; i <= steps; ++i) {
        const double h = double(i) / steps;
        out.samples.push_back({h, std::log2(std::max(0.01, f.relative(channel, f.centre_mm + Vec2(h * half, 0), half))),
                               falloff_sigma_ev(profile, placed, channel, h * half)});
    }
    return out;
}

/// Means over rings that are one sixth of the half-diagonal wide, each at the mean height of its measurements.
LensCurve resolution_curve(const std::vector<ResolutionCell>& cells, LineRun run) {
    constexpr int rings = 6;
    LensCurve out;
    out.run = run;
    for (int k = 0; k < rings; ++k) {
        const double low = double(k) / rings, high = k + 1 == rings ? 2 : double(k + 1) / rings;
        const ResolutionMean m = mean_of_cells(cells, Channel::green, run, low, high);
        if (m.count == 0) continue;
        double height = 0;
        for (const ResolutionCell& c : cells)
            if (c.channel == Channel::green && c.run == run && c.height >= low && c.height < high)
                height += c.height * c.mean.count / m.count;
        out.samples.push_back({height, m.mtf50, m.sigma});
    }
    return out;
}

}  // namespace

PlacedNode measured_node(const Profile& profile, int index) {
    return {profile.nodes.at(index), Placement::measured, {{index, 1.0}}, {}};
}

LensCurves lens_curves(const Profile& profile, const PlacedNode& placed, int steps) {
    LensCurves out;
    out.distortion.push_back(distortion_curve(profile, placed, steps));
    const FrameMap map(placed.node, profile.geometry, profile.geometry);
    if (placed.node.red) out.fringe.push_back(fringe_curve(profile, placed, map, Channel::red, steps));
    if (placed.node.blue) out.fringe.push_back(fringe_curve(profile, placed, map, Channel::blue, steps));
    if (placed.node.falloff)
        for (const Channel channel : {Channel::red, Channel::green, Channel::blue})
            out.falloff.push_back(falloff_curve(profile, placed, channel, steps));
    // Sharpness between lens settings follows no rule, so it is given only for settings that were measured.
    if (placed.placement == Placement::measured)
        for (const LineRun run : {LineRun::sagittal, LineRun::tangential})
            if (LensCurve curve = resolution_curve(placed.node.resolution, run); !curve.samples.empty())
                out.resolution.push_back(std::move(curve));
    return out;
}

}  // namespace optrel
