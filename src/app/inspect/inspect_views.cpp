// SPDX-License-Identifier: GPL-3.0-or-later
// Ways to look in Inspect: from frame to frame, loupes, the same spot of several frames, a window of its own.
#include <QShortcut>

#include "inspect/inspect_place.h"

namespace optrel {

void InspectPlace::add_keys() {
    using Next = FramesPanel::Next;
    const auto key = [this](const char* keys, int step, Next next, const QString& none) {
        auto* shortcut = new QShortcut(QKeySequence(keys), this, nullptr, nullptr, Qt::WidgetWithChildrenShortcut);
        connect(shortcut, &QShortcut::activated, this, [this, step, next, none] {
            if (!frames_->go(step, next)) parts_.messages().tell(none);
        });
    };
    key("Ctrl+Down", 1, Next::any, "This is the last frame of the list.");
    key("Ctrl+Up", -1, Next::any, "This is the first frame of the list.");
    key("Ctrl+Shift+Down", 1, Next::same_body, "No frame further down the list is from this body.");
    key("Ctrl+Shift+Up", -1, Next::same_body, "No frame further up the list is from this body.");
    key("Ctrl+Alt+Down", 1, Next::waiting, "No frame further down the list waits for a rollout.");
    key("Ctrl+Alt+Up", -1, Next::waiting, "No frame further up the list waits for a rollout.");
}

void InspectPlace::open_picture_window() {
    if (!second_) {
        second_ = new PictureWindow(parts_.jobs(), *looks_);
        second_->setParent(this, Qt::Window);
        second_->setAttribute(Qt::WA_DeleteOnClose);
        connect(second_, &PictureWindow::step_asked, this, [this](int step) { frames_->go(step); });
        connect(looks_, &PreviewService::whole_ready, second_, [this] { show_second(); });
    }
    second_->show();
    second_->raise();
    second_->activateWindow();
    show_second();
}

void InspectPlace::show_second() {
    if (!second_) return;
    const FrameRecord* f = chosen();
    if (!f) return second_->show_nothing();
    if (const std::optional<Development> r = development(*f))
        second_->show_frame({f->path, r->metadata, r->sensor}, r->fields, r->profile);
}

void InspectPlace::show_loupes(bool on) {
    if (on && pictures_->currentWidget() == spot_) show_spot(false);
    loupes_->setChecked(on);
    pictures_->setCurrentWidget(on ? static_cast<QWidget*>(ring_) : view_);
    looks_->look_through(on ? ring_->patches() : std::vector<QRectF>());
}

void InspectPlace::show_spot(bool on) {
    frames_->show_spot(on);
    std::vector<SpotBoard::Subject> subjects;
    if (on)
        for (const FrameRecord* f : frames_->chosen_frames()) {
            if (subjects.size() == SpotBoard::most) break;
            if (const std::optional<Development> r = development(*f))
                subjects.push_back(
                    {f->path, *r, QString("%1, ISO %2").arg(q(f->path.filename().string())).arg(f->metadata.iso)});
        }
    spot_->show_frames(std::move(subjects));
    if (on) show_loupes(false);
    pictures_->setCurrentWidget(on ? static_cast<QWidget*>(spot_) : view_);
}

void InspectPlace::show_view(const QString& view) {
    show_loupes(view == "loupes");
    readout_->marks().setChecked(view == "marks");
    frames_->view().show_pictures(view == "pictures");
    if (view == "pictures") frames_->view().group_by(Grouping::body);
    if (view == "cost") tabs_->setCurrentWidget(cost_);
    if (view == "sharpness") show_some_edge();
    if (view == "chart") {
        tabs_->setCurrentWidget(sharpness_);
        measure_chart();
    }
    if (view == "spot") {
        frames().choose_rows({0, 1, 2, 3});
        show_spot(true);
    }
    touch_->begin(view == "corners" ? PictureTool::corners : PictureTool::none);
    if (view != "hand") return;
    tabs_->setCurrentWidget(hand_);
    find_lines();
}

}  // namespace optrel
