// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/development/straightening.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/error.h"
#include "studio/profiles/frame_profile.h"

namespace optrel {

namespace {

/// From the profile, or from the frame itself.
bool focal_known(const Metadata& metadata, const std::optional<AppliedProfile>& profile) {
    return profile || (metadata.focal_mm > 0 && metadata.pitch_um > 0);
}

void need_focal(bool known, const char* instead) {
    if (!known)
        throw input_error(
            fmt::format("Pitch and yaw need the focal length, which the frame does not say; choose a profile of its "
                        "lens, or {}.",
                        instead));
}

}  // namespace

FrameLines find_lines(const std::filesystem::path& frame, const Metadata& metadata, const ResolvedFrame& fields,
                      const std::optional<AppliedProfile>& profile, const Progress& progress) {
    const PictureGeometry geometry = geometry_of(metadata);
    FrameLines out{lens_of(fields, profile, geometry, metadata.focal_mm)};
    out.orientation = metadata.orientation;
    out.focal_known = focal_known(metadata, profile);
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
    if (sense == LineSense::open)
        sense = std::abs(scene.normal.x()) > std::abs(scene.normal.y()) ? LineSense::vertical : LineSense::horizontal;
    scene.sense = sense;
    lines.lines.push_back(scene);
    lines.segments.push_back(std::move(segment));
}

Straightened straighten(const FrameLines& lines, TurnAngles angles) {
    need_focal(lines.focal_known || angles == TurnAngles::roll, "solve roll alone");
    return straighten(lines.lines, angles);
}

RectangleTurn level_by_corners(const std::vector<Vec2>& corners, double mark_px, const FrameDevelopment& r) {
    need_focal(focal_known(r.metadata, r.profile), "solve roll from lines");
    return turn_of_rectangle(corners, lens_of(r.fields, r.profile, geometry_of(r.metadata), r.metadata.focal_mm),
                             r.metadata.orientation, mark_px);
}

}  // namespace optrel
