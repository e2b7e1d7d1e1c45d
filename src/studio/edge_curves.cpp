// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/edge_curves.h"

#include <algorithm>

#include "studio/prepare_frame.h"

namespace optrel {

namespace {

constexpr double beside_px = 12;

/// With as much room beside the edge as there is: where something else lies near it, with less.
EdgeResponse response(const MeasuringPicture& picture, Channel channel, const Vec2& from, const Vec2& to) {
    EdgeResponse first;
    for (const double room : {beside_px, 8.0, 5.0}) {
        EdgeResponse e = edge_response(picture, channel, from, to, room);
        if (e.usable) return e;
        if (room == beside_px) first = std::move(e);
    }
    return first;
}

/// A part of the corrected picture as something to measure in, with where it begins.
MeasuringPicture corrected_part(const PreparedFrame& prepared, const FrameRecipe& r, const cv::Rect& part,
                                const Progress& progress) {
    const PreparedFrame::Look look = prepared.look(
        r.fields, r.profile, {double(part.x), double(part.y), 1, part.size()}, progress, PreparedFrame::Keep::light);
    MeasuringPicture out;
    out.width = prepared.size().width;
    out.height = prepared.size().height;
    for (int c = 0; c < 3; ++c) {
        SamplePlane plane;
        plane.channel = static_cast<Channel>(c);
        double most = 0;
        cv::minMaxLoc(look.light.channel[c], nullptr, &most);
        // White balance lifts channels above the white level; what was clipped is told by the frame's own samples.
        plane.values = look.light.channel[c] * (0.9 / std::max(most, 1e-6));
        plane.u0 = part.x + 0.5;
        plane.v0 = part.y + 0.5;
        out.planes.push_back(plane);
    }
    return out;
}

}  // namespace

EdgeCurves edge_curves(const std::filesystem::path& frame, const FrameRecipe& r, const Vec2& from, const Vec2& to,
                       const Progress& progress) {
    EdgeCurves out;
    const MeasuringPicture picture = read_for_measuring(frame);
    progress.check();
    for (int c = 0; c < 3; ++c) out.before[c] = response(picture, static_cast<Channel>(c), from, to);
    const auto prepared = prepare_frame(frame, r.metadata, progress);
    const Framing framing = framing_of(r.fields, r.profile, prepared->size(), prepared->taken());
    const auto a = framing.view.place(from), b = framing.view.place(to);
    cv::Rect part;
    if (a && b) {
        const Vec2 room = Vec2::Constant(beside_px + 8), low = a->cwiseMin(*b) - room, high = a->cwiseMax(*b) + room;
        part = cv::Rect(cv::Point(static_cast<int>(low.x()), static_cast<int>(low.y())),
                        cv::Point(static_cast<int>(high.x()), static_cast<int>(high.y()))) &
               cv::Rect({0, 0}, prepared->size());
    }
    if (part.width < 16 || part.height < 16) {
        for (EdgeResponse& e : out.after) e.why_not = "The edge lies outside the corrected picture.";
        return out;
    }
    const MeasuringPicture corrected = corrected_part(*prepared, r, part, progress);
    for (int c = 0; c < 3; ++c) out.after[c] = response(corrected, static_cast<Channel>(c), *a, *b);
    return out;
}

}  // namespace optrel
