#include <fmt/chrono.h>
#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <map>

#include "base/error.h"
#include "calibration/findings.h"
#include "calibration/fringe.h"
#include "calibration/run.h"
#include "optics/frame_map.h"

namespace optrel {
namespace {

/// The value that most of the given frames share; ties go to the first seen.
template <class T, class Get>
T majority(const std::vector<const RunFrame*>& frames, const Get& get) {
    std::vector<std::pair<T, int>> counts;
    for (const RunFrame* frame : frames) {
        const T value = get(*frame);
        const auto it = std::find_if(counts.begin(), counts.end(), [&](const auto& entry) { return entry.first == value; });
        if (it == counts.end())
            counts.emplace_back(value, 1);
        else
            ++it->second;
    }
    return std::max_element(counts.begin(), counts.end(), [](const auto& a, const auto& b) { return a.second < b.second; })->first;
}

/// What all frames of one node must share. Returns the reason why a frame does not, or nothing.
struct Common {
    std::pair<int, int> size;
    double focal_mm, aperture;
    std::string camera, serial;

    std::string mismatch(const RunFrame& f) const {
        if (std::pair(f.width, f.height) != size)
            return fmt::format("{} is {} x {} px, but most frames are {} x {} px; measure it in a run of its own.", f.name(), f.width, f.height, size.first, size.second);
        if (f.metadata.focal_mm != focal_mm)
            return fmt::format("{} was taken at {:g} mm, but most frames at {:g} mm; measure it in a run of its own.", f.name(), f.metadata.focal_mm, focal_mm);
        if (f.metadata.aperture != aperture)
            return fmt::format("{} was taken at f/{:g}, but most frames at f/{:g}; measure it in a run of its own.", f.name(), f.metadata.aperture, aperture);
        if (camera_name(f.metadata) != camera || f.metadata.body_serial != serial)
            return fmt::format("{} was taken with {} {}, but most frames with {} {}; measure it in a run of its own.", f.name(), camera_name(f.metadata),
                               f.metadata.body_serial, camera, serial);
        return "";
    }
};

void check_square_count(const std::vector<const RunFrame*>& charts, const ChartSpec& chart) {
    const int longer = std::max(chart.corners_x(), chart.corners_y()), shorter = std::min(chart.corners_x(), chart.corners_y());
    std::map<std::pair<int, int>, int> whole;
    int other = 0, matching = 0;
    for (const RunFrame* frame : charts) {
        const int c = std::max(frame->detection.columns, frame->detection.rows), r = std::min(frame->detection.columns, frame->detection.rows);
        const bool too_large = c > longer || r > shorter;
        if (too_large || (frame->detection.whole_board && (c != longer || r != shorter))) {
            ++other;
            ++whole[{c, r}];
        } else if (frame->detection.whole_board) {
            ++matching;
        }
    }
    if (other <= matching || other < 2) return;
    const auto seen = std::max_element(whole.begin(), whole.end(), [](const auto& a, const auto& b) { return a.second < b.second; })->first;
    throw input_error(fmt::format("The board in {} frames has {} x {} squares, but the chart is given as {} x {}; correct the chart and solve again.", other,
                                  seen.first + 1, seen.second + 1, chart.squares_x, chart.squares_y));
}

View view_of(const RunFrame& frame, const ChartSpec& chart) {
    View view;
    view.name = frame.name();
    for (const ChartCorner& corner : frame.detection.corners) {
        const CornerFit& green = corner.green();
        view.points.push_back({Vec2(corner.column, corner.row) * chart.square_mm, green.position, green.covariance, false, Vec2::Zero()});
    }
    return view;
}

std::optional<Fringe> channel_fringe(const std::vector<const RunFrame*>& frames, const std::vector<const View*>& views, Channel channel,
                                     const ProfileNode& node, const PictureGeometry& geometry) {
    std::vector<FringePoint> points;
    for (std::size_t v = 0; v < frames.size(); ++v)
        for (std::size_t i = 0; i < frames[v]->detection.corners.size(); ++i) {
            const ChartCorner& corner = frames[v]->detection.corners[i];
            const CornerFit& fit = corner.channel[static_cast<int>(channel)];
            if (!fit.ok || views[v]->points[i].rejected) continue;
            const double variance = (fit.covariance.trace() + corner.green().covariance.trace()) / 2 + 1e-5;
            points.push_back({geometry.to_sensor(corner.green().position), (fit.position - corner.green().position) * geometry.pitch_mm(),
                              std::sqrt(variance) * geometry.pitch_mm()});
        }
    return fit_fringe(points, node.centre_mm, geometry);
}

}  // namespace

RunSolution solve_run(const std::vector<RunFrame>& frames, const SolveSettings& settings, const Progress& progress) {
    const auto began = std::chrono::steady_clock::now();
    RunSolution out;
    out.outcomes.resize(frames.size());
    std::vector<const RunFrame*> charts;
    for (std::size_t i = 0; i < frames.size(); ++i) {
        const RunFrame& frame = frames[i];
        if (frame.dropped)
            out.outcomes[i].reason = fmt::format("{} was dropped by hand.", frame.name());
        else if (!frame.problem.empty())
            out.outcomes[i].reason = frame.problem;
        else if (frame.role == RunRole::chart)
            charts.push_back(&frame);
    }
    if (charts.empty()) {
        std::string why = "none of the frames shows a checkerboard; check that the right folder was chosen";
        for (const RunFrame& frame : frames)
            if (!frame.problem.empty() && frame.role != RunRole::flat) {
                why = fmt::format("no frame shows a usable chart; the first says: {}", frame.problem);
                break;
            }
        if (why.back() != '.') why += '.';
        throw input_error("The lens cannot be solved: " + why);
    }
    Common common{majority<std::pair<int, int>>(charts, [](const RunFrame& f) { return std::pair(f.width, f.height); }),
                  majority<double>(charts, [](const RunFrame& f) { return f.metadata.focal_mm; }),
                  majority<double>(charts, [](const RunFrame& f) { return f.metadata.aperture; }),
                  majority<std::string>(charts, [](const RunFrame& f) { return camera_name(f.metadata); }),
                  majority<std::string>(charts, [](const RunFrame& f) { return f.metadata.body_serial; })};
    std::vector<std::size_t> used;
    std::vector<FlatField> flats;
    charts.clear();
    for (std::size_t i = 0; i < frames.size(); ++i) {
        if (!out.outcomes[i].reason.empty()) continue;
        out.outcomes[i].reason = common.mismatch(frames[i]);
        if (!out.outcomes[i].reason.empty()) continue;
        if (frames[i].role == RunRole::chart) {
            used.push_back(i);
            charts.push_back(&frames[i]);
        } else if (frames[i].role == RunRole::flat) {
            flats.push_back(frames[i].flat);
            out.outcomes[i].used = true;
        }
    }
    check_square_count(charts, settings.chart);

    const Metadata& meta = charts.front()->metadata;
    PictureGeometry geometry{common.size.first, common.size.second, settings.pitch_um > 0 ? settings.pitch_um : meta.pitch_um};
    out.profile.pitch_assumed = !(geometry.pitch_um > 0);
    if (out.profile.pitch_assumed) {
        geometry.pitch_um = 36000.0 / geometry.width;
        out.findings.push_back({fmt::format("The frames do not say their pixel pitch; {:.3f} um (a picture 36 mm wide) was taken.", geometry.pitch_um),
                                "Give the pitch of the body, so that the profile serves other sensor sizes.", false});
    }

    std::vector<View> views;
    for (const RunFrame* frame : charts) views.push_back(view_of(*frame, settings.chart));
    SolveStart start;
    start.focal_px = meta.focal_mm > 0 && (meta.pitch_um > 0 || settings.pitch_um > 0) ? meta.focal_mm / geometry.pitch_mm() : 0;
    start.previous = settings.previous;
    out.lens = solve_lens(views, geometry, start, progress);

    // A frame that disagrees with the rest is left out and the lens solved again.
    std::vector<double> rms;
    for (const View& view : views) rms.push_back(view.rms_px);
    std::nth_element(rms.begin(), rms.begin() + rms.size() / 2, rms.end());
    const double limit = std::max(0.3, 6 * rms[rms.size() / 2]);
    std::vector<View> kept;
    std::vector<std::size_t> kept_index;
    for (std::size_t v = 0; v < views.size(); ++v) {
        int rejected = 0;
        for (const ViewPoint& p : views[v].points) rejected += p.rejected;
        const bool disagrees = views[v].rms_px > limit || rejected * 2 > static_cast<int>(views[v].points.size());
        if (disagrees && views.size() > 3) {
            out.outcomes[used[v]].reason = fmt::format("{} disagrees with the other frames: its corners miss by {:.2f} px (limit {:.2f} px); look for movement or a bent chart.",
                                                       frames[used[v]].name(), views[v].rms_px, limit);
            continue;
        }
        kept.push_back(views[v]);
        kept_index.push_back(used[v]);
    }
    if (kept.size() < views.size() && kept.size() >= 3) {
        start.previous = out.lens;
        out.lens = solve_lens(kept, geometry, start, progress);
    }
    // The smaller model is taken unless the larger one predicts unseen frames clearly better: a term that the frames do not need
    // runs away where nobody measured.
    double held_out = held_out_rms_px(kept, geometry, out.lens, progress);
    if (out.lens.radial_terms == 3) {
        std::vector<View> smaller_views = kept;
        SolveStart smaller = start;
        smaller.previous = out.lens;
        smaller.radial_terms = 2;
        const LensSolution two_terms = solve_lens(smaller_views, geometry, smaller, progress);
        const double two_terms_held_out = held_out_rms_px(smaller_views, geometry, two_terms, progress);
        if (two_terms_held_out < 1.005 * held_out) {
            out.lens = two_terms;
            kept = std::move(smaller_views);
            held_out = two_terms_held_out;
        }
    }
    charts.clear();
    std::vector<const View*> final_views;
    for (std::size_t v = 0; v < kept.size(); ++v) {
        out.outcomes[kept_index[v]].used = true;
        out.outcomes[kept_index[v]].view = kept[v];
        charts.push_back(&frames[kept_index[v]]);
        final_views.push_back(&kept[v]);
    }

    ProfileNode node;
    node.setting = {meta.focal_mm, meta.aperture, meta.distance_m};
    node.focal_mm = out.lens.focal_px * geometry.pitch_mm();
    node.centre_mm = geometry.to_sensor(out.lens.centre_px);
    node.model = out.lens.model;
    if (out.lens.covariance.size()) {
        Eigen::VectorXd unit = Eigen::VectorXd::Ones(out.lens.covariance.rows());
        unit.head<3>().setConstant(geometry.pitch_mm());
        node.covariance = unit.asDiagonal() * out.lens.covariance * unit.asDiagonal();
    }
    progress.check();
    node.red = channel_fringe(charts, final_views, Channel::red, node, geometry);
    node.blue = channel_fringe(charts, final_views, Channel::blue, node, geometry);
    if (!flats.empty()) node.falloff = fit_falloff(flats, node.centre_mm, geometry, progress);

    NodeQuality& q = node.quality;
    q.frames_used = static_cast<int>(kept.size());
    for (std::size_t i = 0; i < frames.size(); ++i) q.frames_dropped += frames[i].role == RunRole::chart && !out.outcomes[i].used;
    q.corners = out.lens.points;
    q.rms_px = out.lens.rms_px;
    q.held_out_rms_px = held_out;
    q.distortion_extreme_percent = distortion_extreme_percent(node, geometry);
    measure_coverage(kept, geometry, node);
    const std::vector<double> sigma = field_sigma_px(node, geometry, picture_grid(geometry, 25, 17));
    q.max_sigma_px = *std::max_element(sigma.begin(), sigma.end());

    Profile& profile = out.profile;
    profile.lens = meta.lens;
    profile.lens_serial = meta.lens_serial;
    profile.camera = camera_name(meta);
    profile.name = meta.lens.empty() ? "Lens without a name" : meta.lens;
    profile.geometry = geometry;
    profile.nodes = {node};
    profile.provenance.author = settings.author;
    profile.provenance.time = fmt::format("{:%Y-%m-%dT%H:%M:%SZ}", fmt::gmtime(std::time(nullptr)));
    profile.provenance.program = "Optrel " OPTREL_VERSION;
    profile.provenance.chart = settings.chart.text();
    for (std::size_t i = 0; i < frames.size(); ++i)
        if (out.outcomes[i].used) profile.provenance.frames.emplace_back(frames[i].name(), frames[i].hash);
    std::uint64_t identity = 14695981039346656037ull;
    for (const auto& [name, hash] : profile.provenance.frames)
        for (const char c : hash) identity = (identity ^ static_cast<unsigned char>(c)) * 1099511628211ull;
    profile.id = fmt::format("p{:012x}", identity & 0xffffffffffffull);

    const std::vector<Finding> found = judge(frames, out, geometry);
    out.findings.insert(out.findings.end(), found.begin(), found.end());
    out.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - began).count();
    return out;
}

}  // namespace optrel
