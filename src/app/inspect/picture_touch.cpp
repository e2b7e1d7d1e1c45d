// SPDX-License-Identifier: GPL-3.0-or-later
#include "inspect/picture_touch.h"

#include <algorithm>
#include <cmath>

#include "base/angle.h"
#include "inspect/picture_places.h"

namespace optrel {

namespace {

CompareView::Marking marking_of(PictureTool tool) {
    using Marking = CompareView::Marking;
    switch (tool) {
        case PictureTool::even_area:
        case PictureTool::grey_area:
        case PictureTool::figures_area: return Marking::area;
        case PictureTool::scene_line:
        case PictureTool::bend_line:
        case PictureTool::edge: return Marking::line;
        default: return Marking::nothing;
    }
}

double half_diagonal(const Framing& framing) {
    const PictureGeometry& g = framing.view.geometry();
    return g.half_diagonal_px();
}

}  // namespace

PictureTouch::PictureTouch(CompareView& view) : QObject(&view), view_(view) {
    connect(&view, &CompareView::area_marked, this, &PictureTouch::mark_area);
    connect(&view, &CompareView::line_marked, this, &PictureTouch::mark_line);
    connect(&view, &CompareView::handle_moved, this, &PictureTouch::move_handle);
    connect(&view, &CompareView::ring_moved, this, &PictureTouch::move_ring);
    connect(&view, &CompareView::escaped, this, [this] { begin(PictureTool::none); });
}

void PictureTouch::begin(PictureTool tool) {
    tool_ = tool;
    points_.clear();
    // The marks are on the corrected picture, so the whole of it is shown meanwhile.
    using Mode = CompareView::Mode;
    const Mode mode = view_.mode();
    if (tool != PictureTool::none && (mode == Mode::before || mode == Mode::split || mode == Mode::split_down)) {
        compared_ = mode;
        view_.set_mode(Mode::after);
    } else if (tool == PictureTool::none && compared_) {
        if (mode == Mode::after) view_.set_mode(*compared_);
        compared_.reset();
    }
    if (tool == PictureTool::corners) lay_corners();
    view_.set_marking(marking_of(tool));
    lay();
    emit tool_changed(tool);
    if (tool != PictureTool::none) view_.setFocus();
}

void PictureTouch::show_over(std::shared_ptr<const Framing> framing, const Metadata& metadata) {
    framing_ = std::move(framing);
    metadata_ = metadata;
    lay();
}

void PictureTouch::set_ring(double height) {
    ring_ = height;
    if (tool_ == PictureTool::ring) lay();
}

double PictureTouch::mark_px() const { return 1 / std::max(1e-3, view_.scale()); }

std::optional<Vec2> PictureTouch::in_frame(const QPointF& place) const {
    return framing_ ? place_in_frame(place, *framing_, metadata_) : std::nullopt;
}

/// Marks at their positions in the current picture.
void PictureTouch::lay() {
    std::vector<QPointF> handles, ring;
    if (framing_) {
        for (const Vec2& p : points_)
            if (const auto at = place_in_picture(p, *framing_, metadata_)) handles.push_back(*at);
        if (tool_ == PictureTool::ring) {
            const FrameMap& lens = framing_->view.lens();
            const double radius = ring_ * half_diagonal(*framing_);
            constexpr int pieces = 120;
            for (int k = 0; k < pieces; ++k) {
                const double a = 2 * pi * k / pieces;
                const Vec2 p = lens.falloff_centre() + radius * Vec2(std::cos(a), std::sin(a));
                if (const auto at = place_in_picture(p, *framing_, metadata_)) ring.push_back(*at);
            }
        }
    }
    // A handle outside the correction cannot be placed.
    if (handles.size() != points_.size()) handles.clear();
    view_.set_handles(std::move(handles), tool_ == PictureTool::corners);
    view_.set_ring(std::move(ring));
}

void PictureTouch::lay_corners() {
    const QRectF seen = view_.visible();
    for (const QPointF& share : {QPointF(0.25, 0.25), QPointF(0.75, 0.25), QPointF(0.75, 0.75), QPointF(0.25, 0.75)})
        if (const auto at = in_frame(seen.topLeft() + QPointF(share.x() * seen.width(), share.y() * seen.height())))
            points_.push_back(*at);
    if (points_.size() != 4) points_.clear();
}

void PictureTouch::mark_line(const QLineF& line) {
    const auto from = in_frame(line.p1()), middle = in_frame(line.center()), to = in_frame(line.p2());
    if (!from || !middle || !to) return begin(tool_);
    if (tool_ == PictureTool::bend_line) {
        points_ = {*from, *middle, *to};
        return lay();
    }
    emit line_drawn(tool_, *from, *to);
    // Several lines can be drawn in succession.
    view_.set_marking(marking_of(tool_));
}

void PictureTouch::mark_area(const QRectF& area) {
    QRectF marked;
    for (const QPointF& corner : {area.topLeft(), area.topRight(), area.bottomLeft(), area.bottomRight()}) {
        const auto at = in_frame(corner);
        if (!at) continue;
        const QRectF here(at->x(), at->y(), 1e-3, 1e-3);
        marked = marked.isNull() ? here : marked.united(here);
    }
    const PictureTool tool = tool_;
    begin(PictureTool::none);
    if (tool == PictureTool::figures_area) return emit patch_drawn(area);
    emit area_marked(tool, marked.intersected(QRectF(0, 0, metadata_.width, metadata_.height)));
}

void PictureTouch::move_handle(int handle, const QPointF& place, bool rests) {
    if (handle < 0 || handle >= static_cast<int>(points_.size())) return;
    const auto at = in_frame(place);
    if (!at || at->x() < 0 || at->y() < 0 || at->x() > metadata_.width || at->y() > metadata_.height) return;
    points_[handle] = *at;
    lay();
    if (rests) tell();
}

void PictureTouch::tell() {
    if (tool_ == PictureTool::corners) emit corners_laid(points_);
    if (tool_ == PictureTool::bend_line) emit line_bent(points_[0], points_[1], points_[2]);
}

void PictureTouch::move_ring(const QPointF& place) {
    const auto at = in_frame(place);
    if (!at) return;
    emit ring_dragged((*at - framing_->view.lens().falloff_centre()).norm() / half_diagonal(*framing_));
}

}  // namespace optrel
