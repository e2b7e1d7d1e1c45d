// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/development/edge_curves.h"

#include <array>

#include "studio/development/corrected_light.h"
#include "studio/development/prepare_frame.h"

namespace optrel {

namespace {

/// Free distance beside the edge without other structures.
constexpr std::array rooms_px{12.0, 8.0, 5.0};

struct EdgeIn {
    const MeasuringPicture& picture;
    Vec2 from, to;

    EdgeResponse with_room(Channel channel, double room) const {
        return edge_response(picture, channel, from, to, room);
    }
    EdgeResponse by_itself(Channel channel) const {
        EdgeResponse first = with_room(channel, rooms_px.front());
        for (std::size_t k = 1; k < rooms_px.size() && !first.usable; ++k)
            if (EdgeResponse e = with_room(channel, rooms_px[k]); e.usable) return e;
        return first;
    }
};

/// Uses the same distance for both, so that only the correction differs; separate distances when there is no common
/// one.
void measure_both(const EdgeIn& frame, const EdgeIn& corrected, Channel channel, EdgeCurves& out) {
    EdgeResponse &before = out.before[static_cast<int>(channel)], &after = out.after[static_cast<int>(channel)];
    for (const double room : rooms_px) {
        before = frame.with_room(channel, room);
        after = corrected.with_room(channel, room);
        if (before.usable && after.usable) return;
    }
    before = frame.by_itself(channel);
    after = corrected.by_itself(channel);
}

}  // namespace

EdgeCurves edge_curves(const std::filesystem::path& frame, const FrameDevelopment& r, const Vec2& from, const Vec2& to,
                       const Progress& progress) {
    EdgeCurves out;
    const MeasuringPicture picture = read_for_measuring(frame);
    const EdgeIn in_frame{picture, from, to};
    progress.check();
    const auto prepared = prepare_frame(frame, r.metadata, r.sensor, progress);
    const Framing framing = framing_of(r.fields, r.profile, prepared->size(), prepared->taken());
    const auto a = framing.view.place(from), b = framing.view.place(to);
    cv::Rect part;
    if (a && b) {
        const Vec2 room = Vec2::Constant(rooms_px.front() + 8);
        const Vec2 low = a->cwiseMin(*b) - room, high = a->cwiseMax(*b) + room;
        part = cv::Rect(cv::Point(static_cast<int>(low.x()), static_cast<int>(low.y())),
                        cv::Point(static_cast<int>(high.x()), static_cast<int>(high.y()))) &
               cv::Rect({0, 0}, prepared->size());
    }
    if (part.width < 16 || part.height < 16) {
        for (int c = 0; c < 3; ++c) {
            out.before[c] = in_frame.by_itself(static_cast<Channel>(c));
            out.after[c].why_not = "The edge lies outside the corrected picture.";
        }
        return out;
    }
    const MeasuringPicture corrected = corrected_light(*prepared, r, part, progress);
    const EdgeIn in_corrected{corrected, *a, *b};
    for (int c = 0; c < 3; ++c) measure_both(in_frame, in_corrected, static_cast<Channel>(c), out);
    return out;
}

}  // namespace optrel
