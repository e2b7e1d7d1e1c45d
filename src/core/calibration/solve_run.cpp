// SPDX-License-Identifier: GPL-3.0-or-later
#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <map>

#include "base/error.h"
#include "base/files.h"
#include "base/times.h"
#include "calibration/findings.h"
#include "calibration/lens_settings.h"
#include "calibration/run.h"
#include "calibration/run_flats.h"
#include "calibration/solve_node.h"

namespace optrel {
namespace {

/// The most frequent value among the given frames; the first one wins ties.
template <class T, class Get>
T majority(const std::vector<const RunFrame*>& frames, const Get& get) {
    std::vector<std::pair<T, int>> counts;
    for (const RunFrame* frame : frames) {
        const T value = get(*frame);
        const auto it =
            std::find_if(counts.begin(), counts.end(), [&](const auto& entry) { return entry.first == value; });
        if (it == counts.end())
            counts.emplace_back(value, 1);
        else
            ++it->second;
    }
    return std::max_element(counts.begin(), counts.end(),
                            [](const auto& a, const auto& b) { return a.second < b.second; })
        ->first;
}

/// Properties that all frames of a run must share. Returns the reason why a frame does not, or an empty text.
struct Common {
    std::pair<int, int> size;
    std::string camera, serial, lens, lens_serial;

    std::string mismatch(const RunFrame& f) const {
        if (std::pair(f.height, f.width) == size && size.first != size.second)
            return fmt::format(
                "{} is turned ({} x {} px, and the run is measured at {} x {} px); leave it as the camera wrote it.",
                f.name(), f.width, f.height, size.first, size.second);
        if (std::pair(f.width, f.height) != size)
            return fmt::format(
                "{} is {} x {} px, and this run is measured at {} x {} px; measure it in a run of its own.", f.name(),
                f.width, f.height, size.first, size.second);
        if (camera_name(f.metadata) != camera || f.metadata.body_serial != serial)
            return fmt::format(
                "{} was taken with {} {}, and this run is that of {} {}; measure it in a run of its own.", f.name(),
                camera_name(f.metadata), f.metadata.body_serial, camera, serial);
        if (canonical_lens_text(f.metadata.lens) != canonical_lens_text(lens) || f.metadata.lens_serial != lens_serial)
            return fmt::format(
                "{} was taken with the lens {} {}, and this run is that of {} {}; measure it in a run of its own.",
                f.name(), f.metadata.lens, f.metadata.lens_serial, lens, lens_serial);
        return "";
    }
};

void check_square_count(const std::vector<const RunFrame*>& charts, const ChartSpec& chart) {
    const int longer = std::max(chart.corners_x(), chart.corners_y()),
              shorter = std::min(chart.corners_x(), chart.corners_y());
    std::map<std::pair<int, int>, int> whole;
    int other = 0, matching = 0;
    for (const RunFrame* frame : charts) {
        const int c = std::max(frame->detection.columns, frame->detection.rows),
                  r = std::min(frame->detection.columns, frame->detection.rows);
        const bool too_large = c > longer || r > shorter;
        if (too_large || (frame->detection.whole_board && (c != longer || r != shorter))) {
            ++other;
            ++whole[{c, r}];
        } else if (frame->detection.whole_board) {
            ++matching;
        }
    }
    if (other <= matching || other < 2) return;
    const auto seen = std::max_element(whole.begin(), whole.end(), [](const auto& a, const auto& b) {
                          return a.second < b.second;
                      })->first;
    throw input_error(
        fmt::format("The board in {} frames has {} x {} squares, but the chart is given as {} x {}; correct the chart "
                    "and solve again.",
                    other, seen.first + 1, seen.second + 1, chart.squares_x, chart.squares_y));
}

std::string why_no_chart(const std::vector<RunFrame>& frames) {
    for (const RunFrame& frame : frames)
        if (!frame.problem.empty() && frame.role != RunRole::flat)
            return fmt::format("The lens cannot be solved: no frame shows a usable chart; the first says: {}",
                               frame.problem);
    return "The lens cannot be solved: none of the frames shows a checkerboard; check that the right folder was "
           "chosen.";
}

/// Marks frames that are unusable by themselves: dropped, failed, or duplicates.
void refuse_single(const std::vector<RunFrame>& frames, std::vector<FrameOutcome>& outcomes) {
    std::map<std::string, std::string> first;
    for (std::size_t i = 0; i < frames.size(); ++i) {
        const RunFrame& frame = frames[i];
        if (frame.dropped)
            outcomes[i].reason = fmt::format("{} was dropped by hand.", frame.name());
        else if (!frame.problem.empty())
            outcomes[i].reason = frame.problem;
        else if (const auto [it, fresh] = first.emplace(frame.hash, frame.name()); !fresh && !frame.hash.empty())
            outcomes[i].reason = fmt::format("{} is the same picture as {}; it counts once.", frame.name(), it->second);
    }
}

void fill_provenance(const std::vector<RunFrame>& frames, const SolveSettings& settings, RunSolution& out) {
    Provenance& p = out.profile.provenance;
    p.author = settings.author;
    p.time = utc_now();
    p.program = "Optrel " OPTREL_VERSION;
    p.chart = settings.chart.text();
    std::string all;
    for (std::size_t i = 0; i < frames.size(); ++i)
        if (out.outcomes[i].used) {
            p.frames.emplace_back(frames[i].name(), frames[i].hash);
            all += frames[i].hash;
        }
    out.profile.id = fmt::format("p{:012x}", fnv1a(all) & 0xffffffffffffull);
}

using ChartFrames = std::vector<const RunFrame*>;

/// Chart frames without an objection so far.
std::vector<int> charts_left(const std::vector<RunFrame>& frames, const RunSolution& solution) {
    std::vector<int> index;
    for (std::size_t i = 0; i < frames.size(); ++i)
        if (solution.outcomes[i].reason.empty() && frames[i].role == RunRole::chart)
            index.push_back(static_cast<int>(i));
    return index;
}

ChartFrames at(const std::vector<RunFrame>& frames, const std::vector<int>& index) {
    ChartFrames out;
    for (const int i : index) out.push_back(&frames[i]);
    return out;
}

Common common_of(const ChartFrames& charts) {
    return {majority<std::pair<int, int>>(charts, [](const RunFrame& f) { return std::pair(f.width, f.height); }),
            majority<std::string>(charts, [](const RunFrame& f) { return camera_name(f.metadata); }),
            majority<std::string>(charts, [](const RunFrame& f) { return f.metadata.body_serial; }),
            majority<std::string>(charts, [](const RunFrame& f) { return f.metadata.lens; }),
            majority<std::string>(charts, [](const RunFrame& f) { return f.metadata.lens_serial; })};
}

/// Sets name, camera and sensor of the profile; an unknown pitch is assumed, and marked.
void begin_profile(const Metadata& meta, const std::pair<int, int>& size, double pitch_um, RunSolution& out) {
    PictureGeometry geometry{size.first, size.second, pitch_um > 0 ? pitch_um : meta.pitch_um};
    Profile& profile = out.profile;
    profile.pitch_assumed = !(geometry.pitch_um > 0);
    if (profile.pitch_assumed) {
        geometry.pitch_um = 36000.0 / geometry.width;
        Finding finding;
        finding.name = "pitch-unknown";
        finding.text = fmt::format(
            "The frames do not say their pixel pitch; {:.3f} um (a picture 36 mm wide) was taken.", geometry.pitch_um);
        finding.remedy = "Give the pitch of the body, so that the profile serves other sensor sizes.";
        out.findings.push_back(finding);
    }
    profile.lens = meta.lens;
    profile.lens_serial = meta.lens_serial;
    profile.camera = camera_name(meta);
    profile.name = meta.lens.empty() ? "Lens without a name" : meta.lens;
    profile.geometry = geometry;
}

/// The lens of an earlier solution for any of these frames, or null.
const LensSolution* earlier_lens(const RunSolution* previous, const std::vector<int>& index) {
    const LensSolution* out = nullptr;
    if (!previous) return out;
    for (const int i : index)
        if (i < static_cast<int>(previous->outcomes.size()) && previous->outcomes[i].node >= 0)
            out = &previous->nodes[previous->outcomes[i].node].lens;
    return out;
}

/// Solves the frames of one lens setting into a node of the profile. Throws Error(input) when they are insufficient.
void add_node(const std::vector<RunFrame>& frames, const std::vector<int>& index, const SolveSettings& settings,
              RunSolution& out, const Progress& progress) {
    SolvedNode solved =
        solve_node(at(frames, index), out.profile.geometry, settings, earlier_lens(settings.previous, index), progress);
    const int node = static_cast<int>(out.profile.nodes.size());
    for (std::size_t k = 0; k < index.size(); ++k) {
        FrameOutcome& outcome = out.outcomes[index[k]];
        outcome = std::move(solved.outcomes[k]);
        outcome.node = node;
        solved.node.quality.frames_dropped += !outcome.used;
    }
    out.profile.nodes.push_back(solved.node);
    out.nodes.push_back(std::move(solved.solution));
}

/// Solves all settings; frames of a setting that cannot be solved are left out. Throws Error(input) when none can.
void add_nodes(const std::vector<RunFrame>& frames, const std::vector<int>& index, const SolveSettings& settings,
               RunSolution& out, const Progress& progress) {
    const std::vector<int> group = group_settings(settings_of(frames, index));
    const int groups = *std::max_element(group.begin(), group.end()) + 1;
    std::string first_problem;
    for (int g = 0; g < groups; ++g) {
        std::vector<int> own;
        for (std::size_t k = 0; k < index.size(); ++k)
            if (group[k] == g) own.push_back(index[k]);
        const std::string where = to_string(typical_setting(settings_of(frames, own)));
        try {
            if (groups > 1 && own.size() < 3)
                throw input_error(fmt::format("{} chart frame{} at {} {} too few; a lens setting needs at least 3.",
                                              own.size(), own.size() == 1 ? "" : "s", where,
                                              own.size() == 1 ? "is" : "are"));
            add_node(frames, own, settings, out, progress);
        } catch (const Cancelled&) {
            throw;
        } catch (const Error& error) {
            if (first_problem.empty()) first_problem = error.what();
            for (const int i : own)
                out.outcomes[i].reason = fmt::format("{} was taken at {}: {}", frames[i].name(), where, error.what());
        }
    }
    if (out.profile.nodes.empty()) throw input_error(first_problem);
}

}  // namespace

RunSolution solve_run(const std::vector<RunFrame>& frames, const SolveSettings& settings, const Progress& progress) {
    const auto began = std::chrono::steady_clock::now();
    RunSolution out;
    out.outcomes.resize(frames.size());
    refuse_single(frames, out.outcomes);
    const ChartFrames all = at(frames, charts_left(frames, out));
    if (all.empty()) throw input_error(why_no_chart(frames));
    const Common common = common_of(all);
    for (std::size_t i = 0; i < frames.size(); ++i)
        if (out.outcomes[i].reason.empty()) out.outcomes[i].reason = common.mismatch(frames[i]);
    const std::vector<int> index = charts_left(frames, out);
    const ChartFrames charts = at(frames, index);
    check_square_count(charts, settings.chart);
    begin_profile(charts.front()->metadata, common.size, settings.pitch_um, out);
    add_nodes(frames, index, settings, out, progress);
    if (out.profile.nodes.size() == 1)
        for (std::size_t i = 0; i < frames.size(); ++i)
            if (out.outcomes[i].node < 0 && frames[i].role == RunRole::chart && !out.outcomes[i].used)
                ++out.profile.nodes.front().quality.frames_dropped;
    add_falloff(frames, out, progress);
    fill_provenance(frames, settings, out);
    judge(frames, settings, out);
    out.seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - began).count();
    return out;
}

}  // namespace optrel
