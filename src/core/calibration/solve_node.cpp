// SPDX-License-Identifier: GPL-3.0-or-later
#include "calibration/solve_node.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/error.h"
#include "base/median.h"
#include "calibration/findings.h"
#include "calibration/lateral_chromatic.h"
#include "calibration/lens_settings.h"
#include "optics/frame_map.h"
#include "optics/uncertainty.h"

namespace optrel {
namespace {

/// Lattice coordinates of a plain board with its columns along the longer side when the whole board is visible,
/// otherwise along the rows of the picture. All views then share the two directions of the board, except for a half
/// turn.
std::pair<double, double> along_board(const ChartCorner& corner, const ChartDetection& detection,
                                      const ChartSpec& chart, bool turned) {
    if (detection.identified)
        return {corner.column - (chart.corners_x() - 1) / 2.0, corner.row - (chart.corners_y() - 1) / 2.0};
    const double c = corner.column - (detection.columns - 1) / 2.0, r = corner.row - (detection.rows - 1) / 2.0;
    return turned ? std::pair(r, -c) : std::pair(c, r);
}

bool is_turned(const ChartDetection& d, const ChartSpec& chart) {
    if (d.identified) return false;
    if (d.whole_board && chart.corners_x() != chart.corners_y()) {
        if (d.columns == chart.corners_x() && d.rows == chart.corners_y()) return false;
        if (d.columns == chart.corners_y() && d.rows == chart.corners_x()) return true;
    }
    // The direction in which columns are counted, from the covariance of column number and place.
    Vec2 mean = Vec2::Zero(), along = Vec2::Zero();
    double mean_column = 0;
    for (const ChartCorner& c : d.corners) {
        mean += c.green().position / d.corners.size();
        mean_column += double(c.column) / d.corners.size();
    }
    for (const ChartCorner& c : d.corners) along += (c.column - mean_column) * (c.green().position - mean);
    return std::abs(along.y()) > std::abs(along.x());
}

View view_of(const RunFrame& frame, const ChartSpec& chart) {
    View view;
    view.name = frame.name();
    const bool turned = is_turned(frame.detection, chart);
    for (const ChartCorner& corner : frame.detection.corners) {
        const auto [c, r] = along_board(corner, frame.detection, chart, turned);
        ViewPoint p;
        p.board_mm = {c * chart.square_mm, r * chart.square_y_mm};
        p.uv = corner.green().position;
        p.covariance = corner.green().covariance;
        p.by_hand = p.rejected = frame.dropped_corners.count({corner.column, corner.row}) > 0;
        view.points.push_back(p);
    }
    return view;
}

std::optional<LateralChromatic> channel_fringe(const std::vector<const RunFrame*>& frames,
                                               const std::vector<View>& views, Channel channel, const ProfileNode& node,
                                               const PictureGeometry& geometry) {
    std::vector<ChromaticPoint> points;
    for (std::size_t v = 0; v < frames.size(); ++v)
        for (std::size_t i = 0; i < frames[v]->detection.corners.size(); ++i) {
            const ChartCorner& corner = frames[v]->detection.corners[i];
            const CornerFit& fit = corner.channel[static_cast<int>(channel)];
            if (!fit.ok || views[v].points[i].rejected) continue;
            const double variance = (fit.covariance.trace() + corner.green().covariance.trace()) / 2 + 1e-5;
            points.push_back({geometry.to_sensor(corner.green().position),
                              (fit.position - corner.green().position) * geometry.pitch_mm(),
                              std::sqrt(variance) * geometry.pitch_mm()});
        }
    return fit_lateral_chromatic(points, node.centre_mm, geometry);
}

/// Leaves out views that disagree with the rest, with a reason. True when any was left out. Before the model is chosen,
/// only views are left out that no model could reconcile: those in which most corners are far off.
bool leave_out_disagreeing(std::vector<View>& views, std::vector<std::size_t>& index,
                           std::vector<FrameOutcome>& outcomes, bool model_chosen) {
    std::vector<double> misses;  // residual of the typical corner of each view, rejected or not
    for (const View& view : views) {
        std::vector<double> all;
        for (const ViewPoint& p : view.points)
            if (!p.by_hand) all.push_back(p.residual.norm());
        misses.push_back(median(all));
    }
    const double typical = median(misses),
                 limit = model_chosen ? std::max(0.3, 6 * typical) : std::max(2.0, 8 * typical);
    std::vector<View> kept;
    std::vector<std::size_t> kept_index;
    for (std::size_t v = 0; v < views.size(); ++v) {
        int rejected = 0, usable = 0;
        for (const ViewPoint& p : views[v].points) {
            rejected += p.rejected && !p.by_hand;
            usable += !p.by_hand;
        }
        if (misses[v] > limit || (model_chosen && rejected * 2 > usable)) {
            outcomes[index[v]].reason = fmt::format(
                "{} disagrees with the other frames: {} of its {} corners fit, the typical one misses by {:.2f} px "
                "(limit {:.2f} px); look for movement or a bent chart.",
                views[v].name, usable - rejected, usable, misses[v], limit);
            continue;
        }
        kept.push_back(views[v]);
        kept_index.push_back(index[v]);
    }
    if (kept.size() < 3) {
        for (FrameOutcome& o : outcomes) o.reason.clear();
        return false;
    }
    const bool any = kept.size() < views.size();
    views = std::move(kept);
    index = std::move(kept_index);
    return any;
}

/// The chart frames of one lens setting while they are solved.
struct NodeWork {
    const std::vector<const RunFrame*>& charts;
    const PictureGeometry& geometry;
    std::vector<View> views;
    std::vector<std::size_t> index;  ///< index of the chart of each view
    SolveStart start;
    SolvedNode out;
};

void begin(NodeWork& work, const SolveSettings& settings, const LensSolution* previous) {
    std::vector<LensSetting> recorded;
    for (std::size_t i = 0; i < work.charts.size(); ++i) {
        work.views.push_back(view_of(*work.charts[i], settings.chart));
        work.index.push_back(i);
        const Metadata& m = work.charts[i]->metadata;
        recorded.push_back({m.focal_mm, m.aperture, m.distance_m});
    }
    work.out.outcomes.resize(work.charts.size());
    work.out.node.setting = typical_setting(recorded);
    const double focal_mm = work.out.node.setting.focal_mm;
    if (focal_mm > 0 && work.charts.front()->metadata.pitch_um + settings.pitch_um > 0)
        work.start.focal_px = focal_mm / work.geometry.pitch_mm();
    if (previous) work.start.previous = *previous;
}

/// Solves the lens with the best model, or with the same model as an earlier solution.
void solve(NodeWork& work, const SolveSettings& settings, bool same_model, const Progress& progress) {
    LensSolution& lens = work.out.solution.lens;
    const auto solve_again = [&](bool keep_one) {
        if (!leave_out_disagreeing(work.views, work.index, work.out.outcomes, keep_one)) return false;
        work.start.previous = lens;
        lens = solve_lens(work.views, work.geometry, work.start, progress);
        return true;
    };
    const auto judge = [&] { return held_out(work.views, work.geometry, lens, lens.floor_px, progress).rms_px; };
    lens = solve_lens(work.views, work.geometry, work.start, progress);
    solve_again(same_model);
    if (same_model) {
        work.out.held_out_rms_px = judge();
        return;
    }
    ModelChoice choice = choose_model(work.views, work.geometry, lens, settings.model, progress);
    lens = choice.lens;
    work.views = std::move(choice.views);
    work.out.held_out_rms_px = choice.unseen.rms_px;
    work.out.solution.trials = std::move(choice.trials);
    // With the final model, a frame that a smaller model could not fit may fit, and a wrong one may become
    // visible.
    if (solve_again(true)) work.out.held_out_rms_px = judge();
}

void fill_node(NodeWork& work, const Progress& progress) {
    const LensSolution& lens = work.out.solution.lens;
    const PictureGeometry& geometry = work.geometry;
    ProfileNode& node = work.out.node;
    node.focal_mm = lens.focal_px * geometry.pitch_mm();
    node.centre_mm = geometry.to_sensor(lens.centre_px);
    node.model = lens.model;
    if (lens.covariance.size()) {
        Eigen::VectorXd unit = Eigen::VectorXd::Ones(lens.covariance.rows());
        unit.head<3>().setConstant(geometry.pitch_mm());
        node.covariance = unit.asDiagonal() * lens.covariance * unit.asDiagonal();
    }
    node.misfit_px = common_residual_px(work.views, geometry);
    progress.check();
    std::vector<const RunFrame*> used;
    for (const std::size_t i : work.index) used.push_back(work.charts[i]);
    node.red = channel_fringe(used, work.views, Channel::red, node, geometry);
    node.blue = channel_fringe(used, work.views, Channel::blue, node, geometry);
    std::vector<ResolutionPoint> edges;
    for (const RunFrame* frame : used) edges.insert(edges.end(), frame->resolution.begin(), frame->resolution.end());
    node.resolution = resolution_cells(edges, geometry);
    NodeQuality& q = node.quality;
    q.frames_used = static_cast<int>(work.views.size());
    q.corners = lens.points;
    q.rms_px = lens.rms_px;
    q.held_out_rms_px = work.out.held_out_rms_px;
    q.distortion_extreme_percent = distortion_extreme_percent(node, geometry);
    measure_coverage(work.views, geometry, node);
    measure_straightness(work.views, geometry, node);
    for (const double sigma : field_sigma_px(node, geometry, picture_grid(geometry, 25, 17), PointsOf::frame))
        if (sigma > q.max_sigma_px) q.max_sigma_px = sigma;
}

}  // namespace

SolvedNode solve_node(const std::vector<const RunFrame*>& charts, const PictureGeometry& geometry,
                      const SolveSettings& settings, const LensSolution* previous, const Progress& progress) {
    NodeWork work{charts, geometry, {}, {}, {}, {}};
    begin(work, settings, previous);
    solve(work, settings, previous != nullptr, progress);
    add_covariance(work.views, work.out.solution.lens, geometry);
    fill_node(work, progress);
    for (std::size_t v = 0; v < work.views.size(); ++v) {
        work.out.outcomes[work.index[v]].used = true;
        work.out.outcomes[work.index[v]].view = std::move(work.views[v]);
    }
    return std::move(work.out);
}

}  // namespace optrel
