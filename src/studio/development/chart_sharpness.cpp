// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/development/chart_sharpness.h"

#include <fmt/format.h>

#include "base/error.h"
#include "calibration/resolution.h"
#include "charts/detect.h"
#include "studio/development/corrected_light.h"
#include "studio/development/prepare_frame.h"

namespace optrel {

namespace {

/// Corners in the corrected picture; corners outside it are left out.
ChartDetection corrected_chart(const ChartDetection& chart, const PictureView& view) {
    ChartDetection out = chart;
    out.corners.clear();
    for (ChartCorner corner : chart.corners) {
        const auto place = view.place(corner.green().position);
        if (!place || !view.geometry().contains(*place)) continue;
        corner.channel[static_cast<int>(Channel::green)].position = *place;
        out.corners.push_back(corner);
    }
    return out;
}

}  // namespace

ChartSharpness chart_sharpness(const std::filesystem::path& frame, const FrameDevelopment& r,
                               const std::optional<ChartSpec>& chart, const Progress& progress) {
    ChartSharpness out;
    const MeasuringPicture picture = read_for_measuring(frame);
    progress.check();
    // The exact chart does not matter for its edges, only whether it has markers.
    ChartSpec board = chart.value_or(ChartSpec::parse("checker:15x10:30"));
    const ChartDetection found = detect_chart(picture, board, progress);
    if (!found.found())
        throw input_error(fmt::format("{} shows no board of at least 3 by 3 corners; choose a chart frame.",
                                      frame.filename().string()));
    if (found.markers >= 4) board.kind = ChartKind::coded;
    out.before = measure_resolution(picture, found, board, progress);
    out.geometry = {picture.width, picture.height, 1};
    const auto prepared = prepare_frame(frame, r.metadata, r.sensor, progress);
    const Framing framing = framing_of(r.fields, r.profile, prepared->size(), prepared->taken());
    const cv::Size size = prepared->size();
    out.corrected = {size.width, size.height, 1};
    const MeasuringPicture corrected = corrected_light(*prepared, r, {{0, 0}, size}, progress);
    out.after = measure_resolution(corrected, corrected_chart(found, framing.view), board, progress).points;
    return out;
}

}  // namespace optrel
