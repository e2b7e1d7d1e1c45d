// SPDX-License-Identifier: GPL-3.0-or-later
// Tools on the picture in Inspect.
#include <algorithm>
#include <cmath>

#include "inspect/inspect_place.h"
#include "jobs.h"
#include "studio/development/proposing.h"

namespace optrel {

void InspectPlace::listen_to_touch() {
    connect(hand_, &HandPanel::tool_asked, touch_, &PictureTouch::begin);
    connect(touch_, &PictureTouch::tool_changed, this, [this](PictureTool tool) {
        hand_->show_tool(tool);
        sharpness_->show_marking(tool == PictureTool::edge);
        if (tool == PictureTool::corners) lines_->forget();
        if (tool == PictureTool::none || pictures_->currentWidget() == view_) return;
        show_spot(false);
        show_loupes(false);
    });
    connect(touch_, &PictureTouch::area_marked, this, &InspectPlace::mark_area);
    connect(touch_, &PictureTouch::line_bent, this, &InspectPlace::bend_line);
    connect(touch_, &PictureTouch::corners_laid, this, &InspectPlace::level_corners);
    connect(touch_, &PictureTouch::line_drawn, this, [this](PictureTool tool, const Vec2& from, const Vec2& to) {
        if (tool == PictureTool::scene_line) lines_->draw(from, to);
        if (tool == PictureTool::edge) measure_edge(from, to);
    });
    connect(touch_, &PictureTouch::ring_dragged, this, [this](double height) {
        // Shown at once, and saved when the drag ends, as with the number field.
        hand_->number(Field::corner_light_from).setValue(height);
    });
    connect(&hand_->number(Field::corner_light_from), &QDoubleSpinBox::valueChanged, touch_, &PictureTouch::set_ring);
    connect(sharpness_, &SharpnessPanel::edge_asked, this,
            [this](bool on) { touch_->begin(on ? PictureTool::edge : PictureTool::none); });
    connect(sharpness_, &SharpnessPanel::chart_asked, this, &InspectPlace::measure_chart);
    connect(sharpness_, &SharpnessPanel::measured, this, &InspectPlace::show_framing);
}

void InspectPlace::bend_line(const Vec2& from, const Vec2& middle, const Vec2& to) {
    const std::optional<Development> r = chosen_development();
    if (!r) return;
    parts_.attempt([&] { hand_->number(Field::hand_distortion).setValue(bent_straight(from, middle, to, *r).number); });
}

void InspectPlace::level_corners(const std::vector<Vec2>& corners) {
    if (const std::optional<Development> r = chosen_development()) lines_->level(corners, touch_->mark_px(), *r);
}

void InspectPlace::measure_edge(const Vec2& from, const Vec2& to) {
    const std::optional<Development> r = chosen_development();
    if (!r) return;
    edge_ = {from, to};
    show_framing();
    sharpness_->measure_edge(parts_.jobs(), r->path, *r, from, to);
}

void InspectPlace::measure_chart() {
    const std::optional<Development> r = chosen_development();
    if (!r) return;
    edge_.reset();
    sharpness_->measure_chart(parts_.jobs(), r->path, *r);
    show_framing();
}

/// The longest slanted line that was detected, as an example.
void InspectPlace::show_some_edge() {
    tabs_->setCurrentWidget(sharpness_);
    if (!lines_->lines()) return;
    const Segment* best = nullptr;
    for (const Segment& s : lines_->lines()->segments) {
        const Vec2 along = s.to - s.from;
        const double slant = std::min(std::abs(along.x()), std::abs(along.y())) / s.length();
        if (slant > 0.02 && (!best || s.length() > best->length())) best = &s;
    }
    if (best) measure_edge(best->from, best->to);
}

}  // namespace optrel
