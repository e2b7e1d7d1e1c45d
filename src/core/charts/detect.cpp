// SPDX-License-Identifier: GPL-3.0-or-later
#include "charts/detect.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <optional>

#include "base/median.h"
#include "charts/identify.h"
#include "charts/lattice.h"

namespace optrel {
namespace {

using Cell = std::pair<int, int>;
using Positions = std::map<Cell, Vec2>;

const Vec2* find(const Positions& at, int c, int r) {
    const auto it = at.find({c, r});
    return it == at.end() ? nullptr : &it->second;
}

/// Unit vector along one lattice direction at a corner, from its neighbours; zero when it has none.
Vec2 direction(const Positions& at, const Cell& cell, int dx, int dy, double& nearest) {
    const Vec2& here = at.at(cell);
    const Vec2 *ahead = find(at, cell.first + dx, cell.second + dy),
               *behind = find(at, cell.first - dx, cell.second - dy);
    if (ahead) nearest = std::min(nearest, (*ahead - here).norm());
    if (behind) nearest = std::min(nearest, (*behind - here).norm());
    if (ahead && behind) return (*ahead - *behind).normalized();
    if (ahead) return (*ahead - here).normalized();
    if (behind) return (here - *behind).normalized();
    return Vec2::Zero();
}

/// Curvature of the lattice line through a corner, from its two neighbours: with offsets y across and h along a
/// tangent, y'' = 2 (y+ / h+ + y- / h-) / (h+ + h-), which does not depend on the tangent chosen. Nothing without both
/// neighbours.
std::optional<double> own_curvature(const Positions& at, const Cell& cell, int dx, int dy, const Vec2& edge) {
    const Vec2 *ahead = find(at, cell.first + dx, cell.second + dy),
               *behind = find(at, cell.first - dx, cell.second - dy);
    if (!ahead || !behind) return std::nullopt;
    const Vec2& here = at.at(cell);
    const Vec2 normal(-edge.y(), edge.x());
    const double h1 = std::abs(edge.dot(*ahead - here)), h2 = std::abs(edge.dot(*behind - here));
    return 2 * (normal.dot(*ahead - here) / h1 + normal.dot(*behind - here) / h2) / (h1 + h2);
}

using Curvatures = std::map<Cell, double>;

/// Curvature at a cell, extrapolated from neighbouring corners: linearly from two in a row, otherwise that of the
/// nearest one. Curvature changes slowly along a line and between lines.
std::optional<double> carried_on(const Curvatures& known, const Cell& cell) {
    double sum[2] = {0, 0};
    int count[2] = {0, 0};
    for (const auto& [dx, dy] : {Cell{1, 0}, Cell{-1, 0}, Cell{0, 1}, Cell{0, -1}}) {
        const auto one = known.find({cell.first + dx, cell.second + dy});
        if (one == known.end()) continue;
        const auto two = known.find({cell.first + 2 * dx, cell.second + 2 * dy});
        const int straight = two != known.end();
        sum[straight] += straight ? 2 * one->second - two->second : one->second;
        ++count[straight];
    }
    const int best = count[1] > 0;
    if (count[best] == 0) return std::nullopt;
    return sum[best] / count[best];
}

/// Curvature of the lattice lines of one direction at all corners. At the rim of the lattice, where a corner lacks a
/// neighbour, and in lines of two corners, it is extrapolated from neighbouring corners.
Curvatures curvatures(const std::map<Cell, CornerFit>& fits, const Positions& at, int dx, int dy) {
    Curvatures out;
    for (const auto& [cell, fit] : fits)
        if (const auto own = own_curvature(at, cell, dx, dy, dx ? fit.edge1 : fit.edge2)) out[cell] = *own;
    while (out.size() < fits.size()) {
        Curvatures more;
        for (const auto& [cell, fit] : fits)
            if (const auto near = out.count(cell) ? std::nullopt : carried_on(out, cell)) more[cell] = *near;
        if (more.empty()) break;
        out.merge(more);
    }
    return out;
}

/// True when another corner beyond each side of the lattice would still lie well inside the picture, so the board ends
/// there.
bool ends_inside(const Positions& at, const LatticeExtent& e, int width, int height) {
    const auto side_ends = [&](bool vertical, int index, int step) {
        int seen = 0, inside = 0;
        for (int k = vertical ? e.top : e.left; k <= (vertical ? e.bottom : e.right); ++k) {
            const Vec2* last = vertical ? find(at, index, k) : find(at, k, index);
            const Vec2* before = vertical ? find(at, index - step, k) : find(at, k, index - step);
            if (!last || !before) continue;
            const Vec2 next = *last + 1.3 * (*last - *before);
            ++seen;
            inside += next.x() > 0 && next.y() > 0 && next.x() < width && next.y() < height;
        }
        return seen > 1 && inside == seen;
    };
    return side_ends(true, e.left, -1) && side_ends(true, e.right, 1) && side_ends(false, e.top, -1) &&
           side_ends(false, e.bottom, 1);
}

/// The lattice at the picture size that shows most of it. One size serves nearly all frames; a smaller one helps
/// against strong blur and noise, a larger one with small squares.
std::pair<Lattice, SearchPicture> find_lattice(const MeasuringPicture& picture, const Progress& progress) {
    std::pair<Lattice, SearchPicture> best;
    for (const int longest : {1400, 700, 2800}) {
        progress.check();
        SearchPicture at_size = search_picture(picture, longest);
        Lattice grown = grow_lattice(at_size);
        if (grown.size() > best.first.size()) best = {std::move(grown), std::move(at_size)};
        if (best.first.size() >= 30) break;
    }
    return best;
}

using Planes = std::array<std::vector<const SamplePlane*>, 3>;

/// A quick fit of each corner for a good position. `clearance`: largest distance of samples from an edge, in squares;
/// 0: no limit.
std::map<Cell, CornerFit> first_fits(const Positions& at, const Planes& planes, double search_step, double clearance) {
    std::map<Cell, CornerFit> out;
    for (const auto& [cell, p] : at) {
        double nearest = 1e9;
        CornerGuess guess;
        guess.position = p;
        guess.edge1 = direction(at, cell, 1, 0, nearest);
        guess.edge2 = direction(at, cell, 0, 1, nearest);
        guess.half_length = std::clamp(0.3 * nearest, 4.0, 12.0);
        guess.blur_px = std::clamp(0.6 * search_step, 0.7, 2.0);
        if (guess.edge1.isZero() || guess.edge2.isZero()) continue;
        if (clearance > 0) guess.band_limit = clearance * nearest;
        if (const CornerFit fit = fit_corner(planes[1], guess); fit.ok) out[cell] = fit;
    }
    return out;
}

/// 0 where it is unknown.
struct LineCurvatures {
    Curvatures of_rows, of_columns;

    static double at(const Curvatures& known, const Cell& cell) {
        const auto it = known.find(cell);
        return it == known.end() ? 0 : it->second;
    }
};

/// The fit along the full length of the edges with known curvature: green first, then red and blue starting from its
/// position.
ChartCorner full_fit(const Positions& refined, const Cell& cell, const CornerFit& fit, const LineCurvatures& lines,
                     const Planes& planes, double clearance) {
    double nearest = 1e9;
    direction(refined, cell, 1, 0, nearest);
    direction(refined, cell, 0, 1, nearest);
    const bool alone = nearest > 1e8;
    CornerGuess guess;
    guess.position = fit.position;
    guess.edge1 = fit.edge1;
    guess.edge2 = fit.edge2;
    guess.blur_px = fit.blur_px;
    guess.half_length = alone ? 10 : std::clamp(0.42 * nearest, 4.0, 30.0);
    if (clearance > 0 && !alone) guess.band_limit = clearance * nearest;
    guess.curvature1 = LineCurvatures::at(lines.of_rows, cell);
    guess.curvature2 = LineCurvatures::at(lines.of_columns, cell);
    ChartCorner corner;
    corner.column = cell.first;
    corner.row = cell.second;
    CornerFit& green = corner.channel[1];
    green = fit_corner(planes[1], guess);
    if (!green.ok) return corner;
    guess.position = green.position;
    guess.edge1 = green.edge1;
    guess.edge2 = green.edge2;
    guess.blur_px = green.blur_px;
    for (const int c : {0, 2}) corner.channel[c] = fit_corner(planes[c], guess);
    return corner;
}

/// Judges each corner by all of them: a corner that is far less sharp or less clear than the rest is dropped.
void sum_up(ChartDetection& out) {
    std::vector<double> blur, contrast;
    for (const ChartCorner& c : out.corners) {
        blur.push_back(c.green().blur_px);
        contrast.push_back(2 * c.green().amplitude);
        out.clipped += c.green().clipped / out.corners.size();
    }
    out.blur_px = median(blur);
    out.contrast = median(contrast);
    std::erase_if(out.corners, [&](const ChartCorner& c) {
        const CornerFit& g = c.green();
        return 2 * g.amplitude < 0.2 * out.contrast || g.blur_px > 3.5 * out.blur_px;
    });
}

/// Numbers columns and rows from 0, unless the markers of the board identify the corners.
void number_corners(ChartDetection& out, const BoardPlace& place) {
    if (out.identified)
        for (ChartCorner& corner : out.corners)
            std::tie(corner.column, corner.row) = place.corner(corner.column, corner.row);
    LatticeExtent e{1 << 20, 1 << 20, -(1 << 20), -(1 << 20)};
    for (const ChartCorner& c : out.corners)
        e = {std::min(e.left, c.column), std::min(e.top, c.row), std::max(e.right, c.column),
             std::max(e.bottom, c.row)};
    out.columns = e.columns();
    out.rows = e.rows();
    if (out.identified) return;
    for (ChartCorner& corner : out.corners) {
        corner.column -= e.left;
        corner.row -= e.top;
    }
}

}  // namespace

ChartDetection detect_chart(const MeasuringPicture& picture, const ChartSpec& chart, const Progress& progress) {
    ChartDetection out;
    const auto [lattice, search] = find_lattice(picture, progress);
    if (lattice.empty()) return out;
    const BoardPlace place = identify_board(search, lattice, chart);
    const bool coded = place.certain();
    // Up to the markers, less a small margin.
    const double clearance = coded ? (1 - place.marker_share) / 2 - 0.02 : 0;

    Planes planes;
    for (const SamplePlane& plane : picture.planes) planes[static_cast<int>(plane.channel)].push_back(&plane);
    Positions at;
    for (const auto& [cell, p] : lattice) at[cell] = search.to_frame(p);
    const std::map<Cell, CornerFit> first = first_fits(at, planes, search.step, clearance);
    progress.check();
    Positions refined;
    for (const auto& [cell, fit] : first) refined[cell] = fit.position;
    const LineCurvatures lines{curvatures(first, refined, 1, 0), curvatures(first, refined, 0, 1)};
    for (const auto& [cell, fit] : first)
        if (const ChartCorner corner = full_fit(refined, cell, fit, lines, planes, clearance); corner.green().ok)
            out.corners.push_back(corner);

    sum_up(out);
    out.rejected = static_cast<int>(lattice.size() - out.corners.size());
    if (out.corners.size() < 9) {
        out.corners.clear();
        return out;
    }
    out.whole_board = ends_inside(at, extent_of(lattice), picture.width, picture.height);
    out.markers = coded ? place.markers : 0;
    out.mirrored = coded && place.mirrored;
    out.identified = coded && !place.mirrored && chart.kind == ChartKind::coded;
    number_corners(out, place);
    return out;
}

}  // namespace optrel
