// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/straightening.h"

#include <algorithm>
#include <cmath>

#include "base/error.h"
#include "studio/develop_frame.h"

namespace optrel {

FrameLines find_lines(const std::filesystem::path& frame, const Metadata& metadata, const ResolvedFrame& fields,
                      const std::optional<AppliedProfile>& profile, const Progress& progress) {
    const PictureGeometry geometry = geometry_of(metadata);
    FrameLines out{lens_of(fields, profile, geometry, metadata.focal_mm)};
    out.orientation = metadata.orientation;
    out.focal_known = profile || (metadata.focal_mm > 0 && metadata.pitch_um > 0);
    out.picture = std::make_shared<const MeasuringPicture>(read_for_measuring(frame));
    progress.check();
    const double least = std::max(24.0, 0.015 * std::hypot(geometry.width, geometry.height));
    for (Segment& segment : find_segments(*out.picture, least, progress)) {
        const auto line = straight_line(segment, out.lens);
        if (!line) continue;
        out.lines.push_back(scene_line(*line, out.lens, out.orientation));
        out.segments.push_back(std::move(segment));
    }
    return out;
}

void draw_line(FrameLines& lines, const Vec2& from, const Vec2& to, LineSense sense) {
    constexpr double within_px = 12;
    Segment segment = locate_segment(*lines.picture, from, to, within_px);
    const auto line = straight_line(segment, lines.lens);
    if (!line || segment.points.size() < 4)
        throw input_error("No edge lies along that line; draw it along an edge with contrast.");
    SceneLine scene = scene_line(*line, lines.lens, lines.orientation);
    scene.sense = sense;
    lines.lines.push_back(scene);
    lines.segments.push_back(std::move(segment));
}

Straightened straighten(const FrameLines& lines, TurnAngles angles) {
    if (angles != TurnAngles::roll && !lines.focal_known)
        throw input_error(
            "Pitch and yaw need the focal length, which the frame does not say; choose a profile of its lens, or solve "
            "roll alone.");
    return straighten(lines.lines, angles);
}

}  // namespace optrel
