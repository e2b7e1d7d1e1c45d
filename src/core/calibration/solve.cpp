// SPDX-License-Identifier: GPL-3.0-or-later
#include "calibration/solve.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <limits>

#include "base/error.h"
#include "base/median.h"
#include "calibration/common_part.h"
#include "calibration/initial_pose.h"
#include "calibration/reach.h"

namespace optrel {
namespace {

/// The noise beyond the corners' own covariance, from the median residual (Rayleigh: median of |r|^2 is 1.386 sigma^2).
double estimate_floor(const std::vector<View>& views) {
    std::vector<double> squared, own;
    for (const View& view : views)
        for (const ViewPoint& p : view.points)
            if (!p.rejected) {
                squared.push_back(p.residual.squaredNorm());
                own.push_back(p.covariance.trace() / 2);
            }
    const double total = median(squared) / 1.386, explained = median(own);
    return std::sqrt(std::max(1e-8, total - explained));
}

/// Judges every corner again. True when any status changed.
bool reject_outliers(std::vector<View>& views, double floor_px) {
    bool any = false;
    for (View& view : views)
        for (ViewPoint& p : view.points) {
            const bool wrong = p.by_hand || (information_root(p.covariance, floor_px) * p.residual).norm() > 5.5;
            any = any || wrong != p.rejected;
            p.rejected = wrong;
        }
    return any;
}

void overall_rms(const std::vector<View>& views, LensSolution& lens) {
    double sum = 0;
    lens.points = 0;
    for (const View& view : views)
        for (const ViewPoint& p : view.points)
            if (!p.rejected) {
                sum += p.residual.squaredNorm();
                ++lens.points;
            }
    lens.rms_px = lens.points ? std::sqrt(sum / lens.points) : 0;
}

/// Finds a start from the picture alone: a short adjustment for each kind of lens and focal length, of which the best
/// continues.
LensSolution find_start(std::vector<View>& views, const PictureGeometry& geometry, double known_focal_px,
                        const Progress& progress) {
    const double longer = std::max(geometry.width, geometry.height);
    LensSolution best;
    std::vector<View> best_views;
    double best_cost = std::numeric_limits<double>::infinity();
    const auto consider = [&](LensModelKind kind, double focal) {
        progress.check();
        std::vector<View> trial = views;
        LensSolution lens;
        lens.focal_px = focal;
        lens.centre_px = geometry.middle();
        lens.model = LensModel(kind);
        lens.radial_terms = kind->start_terms();
        for (View& view : trial) view.pose = initial_pose(view, lens);
        AdjustOptions coarse;
        coarse.floor_px = 1.0;
        coarse.iterations = 25;
        coarse.points_per_view = 40;
        coarse.centre_fixed = coarse.decentring_fixed = true;
        if (!adjust(trial, lens, geometry.middle(), coarse)) return;
        coarse.centre_fixed = false;
        coarse.floor_px = 0.3;
        coarse.precision = 1e-6;
        const std::optional<double> cost = adjust(trial, lens, geometry.middle(), coarse);
        const bool plausible = lens.focal_px > 0.1 * longer && lens.focal_px < 100 * longer;
        if (plausible && cost && *cost < best_cost) {
            best_cost = *cost;
            best = lens;
            best_views = std::move(trial);
        }
    };
    constexpr double good_enough = 4;
    // Tries kinds of lenses until one fits well, from several focal lengths when the recorded one is unknown or fails.
    for (const LensModelKind kind : lens_forms())
        if (known_focal_px > 0 && best_cost > good_enough && !kind->starts().empty()) consider(kind, known_focal_px);
    if (best_cost > good_enough)
        for (const LensModelKind kind : lens_forms())
            for (const double factor : kind->starts()) consider(kind, factor * longer);
    if (best_views.empty())
        throw input_error(
            "No lens fits the corners of these frames: check that all show one flat chart taken with one lens at one "
            "setting.");
    views = std::move(best_views);
    return best;
}

}  // namespace

LensSolution solve_lens(std::vector<View>& views, const PictureGeometry& geometry, const SolveStart& start,
                        const Progress& progress) {
    std::size_t points = 0;
    for (const View& view : views) points += view.points.size();
    if (views.size() < 3 || points < 60)
        throw input_error(
            fmt::format("Only {} frames with {} corners are usable, but a lens needs at least 3 frames and 60 corners: "
                        "shoot more chart frames.",
                        views.size(), points));
    LensSolution lens = start.previous ? *start.previous : find_start(views, geometry, start.focal_px, progress);
    for (View& view : views)
        if (view.pose.translation.isZero()) view.pose = initial_pose(view, lens);
    // The bound on wrong corners follows the residuals: while the lens is far from the solution, all corners look
    // wrong, and a tight bound would keep it there.
    AdjustOptions options;
    const auto solve = [&] {
        if (!adjust(views, lens, geometry.middle(), options))
            throw input_error(
                "The solve of this lens breaks off: its corners agree with no lens; check that all frames show one "
                "flat chart at one lens setting.");
    };
    for (View& view : views) set_residuals(view, lens);
    options.floor_px = std::max(0.002, estimate_floor(views));
    options.precision = 1e-6;
    for (int round = 0; round < 8; ++round) {
        progress.check();
        solve();
        const double floor = std::max(0.002, estimate_floor(views));
        if (floor > 0.8 * options.floor_px) break;
        options.floor_px = floor;
    }
    options.precision = 1e-9;
    for (int round = 0; round < 4; ++round) {
        progress.check();
        options.floor_px = std::max(0.001, estimate_floor(views));
        const bool changed = reject_outliers(views, options.floor_px);
        solve();
        if (!changed && round > 0) break;
    }
    lens.floor_px = options.floor_px = estimate_floor(views);
    solve();

    // A polynomial that folds back inside the picture would tear it, so its highest term is removed, then the next.
    const std::span<const int> choices = lens.model.kind()->term_choices();
    while (lens.radial_terms > choices.front() && folds(lens, geometry)) {
        lens.radial_terms = *std::prev(std::lower_bound(choices.begin(), choices.end(), lens.radial_terms));
        solve();
    }
    overall_rms(views, lens);
    if (!(lens.rms_px < 0.02 * std::max(geometry.width, geometry.height)))
        throw input_error(
            fmt::format("The best lens misses the corners by {:.1f} px: the frames do not show one flat chart taken at "
                        "one lens setting.",
                        lens.rms_px));
    return lens;
}

void add_covariance(const std::vector<View>& views, LensSolution& lens, const PictureGeometry& geometry) {
    std::vector<View> copy = views;
    LensSolution refined = lens;
    AdjustOptions options;
    options.floor_px = lens.floor_px;
    options.iterations = 5;
    options.covariance = true;
    // Prior of the omitted term: it moves the corner of the picture by a few percent at
    // most.
    options.next_term_sigma = 0.02 / std::pow(farthest_bent(lens, geometry), 2 * (lens.radial_terms + 1));
    if (!adjust(copy, refined, geometry.middle(), options))
        throw input_error(
            "The uncertainty of this lens cannot be worked out: its last adjustment broke off; add chart frames.");
    lens.covariance = refined.covariance;
    lens.board_sigma = refined.board_sigma;
}

double common_residual_px(const std::vector<View>& views, const PictureGeometry& geometry) {
    constexpr int across = 9, down = 6;
    struct Cell {
        Vec2 sum = Vec2::Zero(), squares = Vec2::Zero();
        int count = 0;
    };
    std::vector<Cell> cells(across * down);
    for (const View& view : views)
        for (const ViewPoint& p : view.points) {
            if (p.rejected) continue;
            Cell& cell = cells[geometry.cell(p.uv, across, down)];
            cell.sum += p.residual;
            cell.squares += p.residual.cwiseAbs2();
            ++cell.count;
        }
    CommonPart common(2);
    for (const Cell& cell : cells) {
        if (cell.count < 8) continue;
        const Vec2 mean = cell.sum / cell.count;
        const Vec2 variance = (cell.squares / cell.count - mean.cwiseAbs2()).cwiseMax(0) / (cell.count - 1);
        common.add(mean.squaredNorm() / 2, variance.sum() / 2);
    }
    return common.rms();
}

void solve_pose(View& view, const LensSolution& lens) {
    std::vector<View> one{view};
    one[0].pose = initial_pose(view, lens);
    LensSolution fixed = lens;
    AdjustOptions options;
    options.lens_fixed = true;
    options.floor_px = std::max(0.005, lens.floor_px);
    options.iterations = 30;
    // When the solve fails, the initial pose stays, with its residuals.
    if (!adjust(one, fixed, lens.centre_px, options)) set_residuals(one[0], lens);
    view = one[0];
}

}  // namespace optrel
