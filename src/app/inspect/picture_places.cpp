// SPDX-License-Identifier: GPL-3.0-or-later
#include "inspect/picture_places.h"

#include "frames/orientation.h"

namespace optrel {

std::optional<QPointF> place_in_picture(const Vec2& frame, const Framing& framing, const Metadata& m) {
    const auto at = framing.view.place(frame);
    if (!at) return std::nullopt;
    const cv::Point2d held = place_as_held({at->x(), at->y()}, {m.width, m.height}, m.orientation);
    return QPointF(held.x, held.y);
}

std::optional<Vec2> place_in_frame(const QPointF& picture, const Framing& framing, const Metadata& m) {
    const cv::Point2d p = place_on_sensor({picture.x(), picture.y()}, {m.width, m.height}, m.orientation);
    return framing.view.green({p.x, p.y});
}

}  // namespace optrel
