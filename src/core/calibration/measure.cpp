// SPDX-License-Identifier: GPL-3.0-or-later
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "base/files.h"
#include "base/parallel.h"
#include "calibration/resolution.h"
#include "calibration/run.h"
#include "charts/saddle_finder.h"
#include "charts/whites.h"

namespace optrel {
namespace {

/// A flat field is smooth at the scale of a few percent of the picture; a chart or a scene is not.
bool is_smooth(const MeasuringPicture& picture) {
    const cv::Mat1f small = search_picture(picture, 350).values;
    cv::Mat1f fine, coarse;
    cv::GaussianBlur(small, fine, {0, 0}, 1.5);
    cv::GaussianBlur(small, coarse, {0, 0}, 10);
    std::vector<float> difference;
    difference.reserve(fine.total());
    for (int y = 12; y < fine.rows - 12; ++y)
        for (int x = 12; x < fine.cols - 12; ++x) difference.push_back(std::abs(fine(y, x) - coarse(y, x)));
    const auto at = difference.begin() + static_cast<std::ptrdiff_t>(0.99 * difference.size());
    std::nth_element(difference.begin(), at, difference.end());
    return *at < 0.03 * cv::mean(small)[0];
}

/// One sentence when a frame shows another kind of chart than the run's, or a mirrored chart; otherwise empty.
std::string wrong_chart(const RunFrame& frame, const ChartSpec& chart) {
    const ChartDetection& d = frame.detection;
    if (d.mirrored)
        return fmt::format(
            "{} is mirrored: the markers of its chart read only in a mirror; use the frame as the camera wrote it.",
            frame.name());
    if (chart.kind == ChartKind::coded && d.markers == 0)
        return fmt::format(
            "{} shows a board on which no markers can be read, but the chart is given as coded; check focus and "
            "distance, or choose a plain chart.",
            frame.name());
    if (chart.kind == ChartKind::checker && d.markers >= 4)
        return fmt::format(
            "{} shows a coded chart ({} markers), but the chart is given as plain; choose the coded chart or measure "
            "the frame in a run of its own.",
            frame.name(), d.markers);
    return "";
}

/// One sentence when the metadata say that a correction was applied already; otherwise empty.
std::string corrected_already(const RunFrame& frame, EmbeddedOpcodes carried) {
    const Metadata& m = frame.metadata;
    if (!m.corrected.empty())
        return fmt::format(
            "{} is corrected already, so that it cannot be measured: its metadata say that Optrel corrected {}; use "
            "the frame as the camera wrote it.",
            frame.name(), m.corrected);
    if (!m.carries.empty() && carried == EmbeddedOpcodes::refuse)
        return fmt::format(
            "{} carries a correction of its lens in its opcodes ({}), so that it is not measured as if it were raw; "
            "use the frame as the camera wrote it, or measure its mosaic all the same (--measure-mosaic).",
            frame.name(), m.carries);
    return "";
}

void measure_as_flat(RunFrame& frame, const MeasuringPicture& picture, bool smooth) {
    if (picture.metadata.kind != FrameKind::raw) {
        frame.problem = fmt::format(
            "{} is a rendered picture, but falloff can only be measured on raw flat fields; use the raw file.",
            frame.name());
        return;
    }
    if (!smooth) {
        frame.problem = fmt::format(
            "{} is no flat field: it shows the structure of a scene; photograph a plain, evenly lit surface out of "
            "focus.",
            frame.name());
        return;
    }
    frame.flat = measure_flat(frame.name(), picture);
    if (frame.flat.clipped > 0.02)
        frame.problem = fmt::format(
            "{} is clipped in {:.0f} % of its area (limit 2 %); expose flat fields at about half of the white level.",
            frame.name(), 100 * frame.flat.clipped);
    else if (frame.flat.level < 0.01)
        frame.problem =
            fmt::format("{} is too dark ({:.1f} % of the white level, at least 1 % is needed); expose it longer.",
                        frame.name(), 100 * frame.flat.level);
}

}  // namespace

RunFrame measure_frame(const std::filesystem::path& path, MeasureAs as, const ChartSpec& chart,
                       const Progress& progress, EmbeddedOpcodes carried) {
    RunFrame frame;
    frame.path = path;
    try {
        progress.check();
        const MeasuringPicture picture = read_for_measuring(path);
        frame.metadata = picture.metadata;
        frame.width = picture.width;
        frame.height = picture.height;
        frame.hash = file_hash(path);
        progress.check();
        const bool smooth = as != MeasureAs::chart && is_smooth(picture);
        const bool flat = as == MeasureAs::flat || (as == MeasureAs::automatic && smooth);
        if (frame.problem = corrected_already(frame, carried); !frame.problem.empty()) {
            frame.role = flat ? RunRole::flat : RunRole::chart;
            return frame;
        }
        if (flat) {
            frame.role = RunRole::flat;
            measure_as_flat(frame, picture, smooth);
            return frame;
        }
        frame.detection = detect_chart(picture, chart, progress);
        if (!frame.detection.found()) {
            frame.role = as == MeasureAs::chart ? RunRole::chart : RunRole::neither;
            frame.problem = fmt::format(
                "{} shows no checkerboard of at least 3 by 3 corners; check focus and light, or leave it out.",
                frame.name());
            return frame;
        }
        frame.role = RunRole::chart;
        frame.problem = wrong_chart(frame, chart);
        if (picture.metadata.kind == FrameKind::raw && frame.problem.empty()) {
            frame.whites.name = frame.name();
            for (const WhitePatch& white : measure_whites(picture, frame.detection))
                frame.whites.blocks.push_back({white.uv, white.channel, white.mean});
            if (!frame.whites.blocks.empty()) frame.whites.level = frame.whites.blocks.front().mean;
            frame.resolution = measure_resolution(picture, frame.detection, chart, progress).points;
        }
    } catch (const Cancelled&) {
        throw;
    } catch (const std::exception& error) {
        // An error of a reader concerns this frame alone.
        frame.problem = reason_for(path, error);
        if (as == MeasureAs::chart) frame.role = RunRole::chart;
        if (as == MeasureAs::flat) frame.role = RunRole::flat;
    }
    return frame;
}

std::vector<RunFrame> measure_frames(const std::vector<std::filesystem::path>& paths, MeasureAs as,
                                     const ChartSpec& chart, Progress& progress,
                                     const std::function<void(int, const RunFrame&)>& each, EmbeddedOpcodes carried) {
    std::vector<RunFrame> frames(paths.size());
    progress.start(static_cast<int>(paths.size()), "Measuring frames");
    const auto measure = [&](int i) {
        frames[i] = measure_frame(paths[i], as, chart, progress, carried);
        progress.step();
    };
    parallel_for_taking(static_cast<int>(paths.size()), measure, [&](int i) {
        if (each) each(i, frames[i]);
    });
    progress.check();
    return frames;
}

}  // namespace optrel
