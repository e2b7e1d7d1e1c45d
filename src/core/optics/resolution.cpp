// SPDX-License-Identifier: GPL-3.0-or-later
#include "optics/resolution.h"

#include <algorithm>
#include <cmath>

#include "base/angle.h"
#include "base/median.h"

namespace optrel {
namespace {

/// Relative error of the method itself: means over very many edges of known blur deviate by this
/// share.
constexpr double method_share = 0.001;

void add(Modulation& to, const Modulation& more, double weight) {
    for (std::size_t k = 0; k < to.values.size(); ++k) to.values[k] += weight * more.values[k];
}

using Edges = std::vector<const ResolutionPoint*>;

/// Robust, because a speck on the chart makes single edges soft.
ResolutionMean robust_mean(const Edges& edges) {
    ResolutionMean out;
    out.count = static_cast<int>(edges.size());
    if (edges.empty()) return out;
    std::vector<double> values, off;
    for (const ResolutionPoint* e : edges) values.push_back(e->mtf50);
    const double middle = median(values);
    for (const double v : values) off.push_back(std::abs(v - middle));
    out.spread = 1.4826 * median(off);
    double n = 0;
    for (const ResolutionPoint* e : edges) {
        if (std::abs(e->mtf50 - middle) > 3 * std::max(out.spread, 1e-6)) continue;
        out.mtf50 += e->mtf50;
        add(out.modulation, e->modulation, 1);
        ++n;
    }
    out.mtf50 /= n;
    for (double& m : out.modulation.values) m /= n;
    out.sigma = std::hypot(out.spread / std::sqrt(n), method_share * out.mtf50);
    return out;
}

}  // namespace

double Modulation::at(double frequency) const {
    if (!(frequency >= 0) || frequency > highest) return 0;
    const double place = frequency / step;
    const int below = std::min(static_cast<int>(place), count - 1);
    const double low = below == 0 ? 1 : values[static_cast<std::size_t>(below - 1)];
    return low + (place - below) * (values[static_cast<std::size_t>(below)] - low);
}

std::string to_string(LineRun run) {
    static constexpr const char* names[] = {"sagittal", "tangential", "oblique"};
    return names[static_cast<int>(run)];
}

LineRun run_of(const Vec2& across, const Vec2& radius) {
    const double r = radius.norm();
    if (r < 1) return LineRun::oblique;
    // When the normal of the edge points along the radius, the edge runs around the middle.
    const double along = std::abs(across.dot(radius)) / r;
    if (along > std::cos(22.5 * degree)) return LineRun::tangential;
    return along < std::sin(22.5 * degree) ? LineRun::sagittal : LineRun::oblique;
}

ResolutionMean mean_resolution(const std::vector<ResolutionPoint>& points, Channel channel, LineRun run,
                               double lowest_height, double highest_height) {
    Edges edges;
    for (const ResolutionPoint& p : points)
        if (p.channel == channel && p.run == run && p.height >= lowest_height && p.height < highest_height)
            edges.push_back(&p);
    return robust_mean(edges);
}

std::vector<ResolutionCell> resolution_cells(const std::vector<ResolutionPoint>& points, const PictureGeometry& g) {
    constexpr int count = ResolutionCells::across * ResolutionCells::down;
    struct Gathered {
        Edges edges;
        Vec2 place = Vec2::Zero();
        double height = 0;
    };
    std::array<std::array<std::array<Gathered, 2>, 3>, count> gathered;
    for (const ResolutionPoint& p : points) {
        if (p.run == LineRun::oblique) continue;
        Gathered& into =
            gathered[static_cast<std::size_t>(g.cell(p.place, ResolutionCells::across, ResolutionCells::down))]
                    [static_cast<std::size_t>(p.channel)][static_cast<std::size_t>(p.run)];
        into.edges.push_back(&p);
        into.place += g.to_sensor(p.place);
        into.height += p.height;
    }
    std::vector<ResolutionCell> out;
    for (const auto& cell : gathered)
        for (int c = 0; c < 3; ++c)
            for (int r = 0; r < 2; ++r) {
                const Gathered& from = cell[c][r];
                if (from.edges.empty()) continue;
                const auto n = static_cast<double>(from.edges.size());
                out.push_back({from.place / n, from.height / n, static_cast<Channel>(c), static_cast<LineRun>(r),
                               robust_mean(from.edges)});
            }
    return out;
}

ResolutionMean mean_of_cells(const std::vector<ResolutionCell>& cells, Channel channel, LineRun run,
                             double lowest_height, double highest_height) {
    ResolutionMean out;
    double weight = 0, value = 0, square = 0;
    for (const ResolutionCell& c : cells) {
        if (c.channel != channel || c.run != run || c.height < lowest_height || c.height >= highest_height) continue;
        out.count += c.mean.count;
        weight += c.mean.count;
        value += c.mean.count * c.mean.mtf50;
        add(out.modulation, c.mean.modulation, c.mean.count);
        square += c.mean.count * (c.mean.mtf50 * c.mean.mtf50 + c.mean.spread * c.mean.spread);
    }
    if (out.count == 0) return out;
    out.mtf50 = value / weight;
    for (double& m : out.modulation.values) m /= weight;
    // Variance within the cells plus variance between them.
    out.spread = std::sqrt(std::max(0.0, square / weight - out.mtf50 * out.mtf50));
    out.sigma = std::hypot(out.spread / std::sqrt(weight), method_share * out.mtf50);
    return out;
}

}  // namespace optrel
