// SPDX-License-Identifier: GPL-3.0-or-later
// Figures and colours in Inspect: the readout, marks for what is lost, and the screen's profile.
#include <cmath>

#include "frames/orientation.h"
#include "inspect/inspect_place.h"
#include "inspect/look_image.h"
#include "screen/screen_dialog.h"
#include "screen/screen_service.h"

namespace optrel {

/// Listens to the picture; called once the parts of the place are there.
void InspectPlace::listen_to_figures() {
    connect(view_, &CompareView::pointed, this, [this](const QPointF& place) {
        const FrameRecord* f = chosen();
        if (!f || patch_shown_) return;
        const cv::Size sensor(f->metadata->width, f->metadata->height);
        const Sampling at =
            on_sensor(QRectF(std::floor(place.x()), std::floor(place.y()), 1, 1), 1, sensor, f->metadata->orientation);
        looks_->read({static_cast<int>(at.left), static_cast<int>(at.top), 1, 1});
    });
    connect(looks_, &PreviewService::pixels_read, this, [this](const PixelReading& reading) {
        if (const FrameRecord* f = chosen())
            readout_->show_reading(reading, {f->metadata->width, f->metadata->height}, f->metadata->orientation);
    });
    connect(looks_, &PreviewService::not_read, readout_, &Readout::show_text);
    connect(readout_, &Readout::patch_asked, this, [this](bool on) {
        patch_shown_ = false;
        touch_->begin(on ? PictureTool::figures_area : PictureTool::none);
    });
    connect(touch_, &PictureTouch::tool_changed, this, [this](PictureTool tool) {
        patch_shown_ = false;
        readout_->patch().setChecked(tool == PictureTool::figures_area);
    });
    connect(touch_, &PictureTouch::patch_drawn, this, &InspectPlace::read_patch);
    connect(&readout_->screen(), &QPushButton::clicked, this, [this] { ScreenDialog(this).exec(); });
    connect(&readout_->marks(), &QToolButton::toggled, this, [this](bool on) {
        looks_->want_marks(on);
        if (on) return;
        readout_->hide_lost();
        view_->set_whole_marks({});
        view_->set_part_marks({});
    });
    connect(looks_, &PreviewService::whole_marks_ready, this,
            [this](const QImage& marks, const std::array<double, 7>& percent) {
                view_->set_whole_marks(marks);
                if (readout_->marks().isChecked()) readout_->show_lost(percent);
            });
    connect(looks_, &PreviewService::part_marks_ready, view_, &CompareView::set_part_marks);
    connect(&ScreenService::here(), &ScreenService::changed, this, &InspectPlace::follow_screen);
    follow_screen();
}

void InspectPlace::read_patch(const QRectF& area) {
    const FrameRecord* f = chosen();
    if (!f) return;
    patch_shown_ = true;
    readout_->patch().setChecked(true);
    const QRectF whole(QPointF(std::floor(area.left()), std::floor(area.top())),
                       QSizeF(std::max(2.0, std::floor(area.width())), std::max(2.0, std::floor(area.height()))));
    const cv::Size sensor(f->metadata->width, f->metadata->height);
    const Sampling at = on_sensor(whole, 1, sensor, f->metadata->orientation);
    looks_->read(cv::Rect(static_cast<int>(at.left), static_cast<int>(at.top), at.size.width, at.size.height) &
                 cv::Rect({0, 0}, sensor));
}

void InspectPlace::follow_screen() {
    const ScreenService::State& state = ScreenService::here().state(this);
    looks_->set_screen(state.colours);
    spot_->set_screen(state.colours);
    readout_->screen().setText(ScreenService::line(state) + " …");
    readout_->screen().setToolTip(
        state.problem.isEmpty()
            ? QString("The profile that pictures are converted to, for the screen that the window is on")
            : state.problem);
}

}  // namespace optrel
