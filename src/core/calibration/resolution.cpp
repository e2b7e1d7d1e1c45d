// SPDX-License-Identifier: GPL-3.0-or-later
#include "calibration/resolution.h"

#include <algorithm>
#include <cmath>
#include <map>

#include "base/angle.h"
#include "base/parallel.h"
#include "scene/slanted_edge.h"

namespace optrel {
namespace {

/// The edges between neighbouring squares, from corner to corner.
std::vector<std::pair<Vec2, Vec2>> edges_of(const ChartDetection& chart) {
    std::map<std::pair<int, int>, Vec2> corner;
    for (const ChartCorner& c : chart.corners) corner[{c.column, c.row}] = c.green().position;
    std::vector<std::pair<Vec2, Vec2>> out;
    for (const auto& [at, place] : corner)
        for (const auto& next : {std::pair(at.first + 1, at.second), std::pair(at.first, at.second + 1)})
            if (const auto it = corner.find(next); it != corner.end()) out.emplace_back(place, it->second);
    return out;
}

}  // namespace

ResolutionField measure_resolution(const MeasuringPicture& picture, const ChartDetection& chart, const ChartSpec& spec,
                                   const Progress& progress) {
    const std::vector<std::pair<Vec2, Vec2>> edges = edges_of(chart);
    constexpr Channel channels[] = {Channel::red, Channel::green, Channel::blue};
    std::vector<EdgeResponse> found(3 * edges.size());
    parallel_for(static_cast<int>(edges.size()), [&](int i) {
        if (progress.cancelled()) return;
        const auto& [a, b] = edges[i];
        const double side = (b - a).norm();
        // The ends stay away from the corners; a coded board has markers a seventh of a square from the edge.
        const double cut = std::clamp(0.14 * side, 3.0, 12.0);
        const double room = (spec.kind == ChartKind::coded ? 0.12 : 0.42) * side;
        const Vec2 along = (b - a) / side;
        for (int c = 0; c < 3; ++c)
            found[3 * i + c] = edge_response(picture, channels[c], a + cut * along, b - cut * along, room);
    });
    progress.check();
    ResolutionField out;
    out.edges = static_cast<int>(edges.size());
    const Vec2 middle(picture.width / 2.0, picture.height / 2.0);
    std::map<std::string, int> refused;
    for (const EdgeResponse& e : found) {
        if (!e.usable) {
            ++refused[e.why_not];
            continue;
        }
        ResolutionPoint p;
        p.place = e.middle;
        p.height = (e.middle - middle).norm() / middle.norm();
        p.channel = e.channel;
        p.run = run_of(e.across, e.middle - middle);
        p.angle_deg = std::fmod(std::atan2(e.across.x(), -e.across.y()) / degree + 360, 180);
        p.mtf50 = e.mtf50;
        p.sigma = e.sigma;
        for (int k = 0; k < Modulation::count; ++k)
            p.modulation.values[static_cast<std::size_t>(k)] = e.at((k + 1) * Modulation::step);
        out.points.push_back(p);
    }
    out.refused.assign(refused.begin(), refused.end());
    return out;
}

}  // namespace optrel
