// SPDX-License-Identifier: GPL-3.0-or-later
#include "inspect/picture_window.h"

#include <QCloseEvent>
#include <QShortcut>
#include <QVBoxLayout>

#include "screen/screen_service.h"
#include "view_settings.h"
#include "window_words.h"

namespace optrel {

PictureWindow::PictureWindow(Jobs& jobs, const PreviewService& shares) {
    setWindowTitle("Picture – Optrel");
    resize(960, 680);
    restoreGeometry(view_setting("picture window").toByteArray());
    looks_ = new PreviewService(jobs, &shares);
    looks_->setParent(this);
    view_ = new CompareView;
    view_->set_mode(CompareView::Mode::after);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->addWidget(view_);
    setFocusProxy(view_);
    connect(looks_, &PreviewService::whole_ready, view_, &CompareView::set_whole);
    connect(looks_, &PreviewService::part_ready, view_, &CompareView::set_part);
    connect(looks_, &PreviewService::failed, view_, &CompareView::clear);
    connect(view_, &CompareView::view_changed, this, [this] { looks_->look_at(view_->visible(), view_->scale()); });
    ScreenService::here().follow(this);
    connect(&ScreenService::here(), &ScreenService::changed, this, &PictureWindow::follow_screen);
    follow_screen();
    add_keys();
}

void PictureWindow::follow_screen() { looks_->set_screen(ScreenService::here().colours(this)); }

void PictureWindow::show_frame(const PreviewSubject& subject, const ResolvedFrame& fields,
                               const std::optional<AppliedProfile>& profile) {
    if (shown_ != subject.path) {
        shown_ = subject.path;
        view_->set_size(subject.size());
        setWindowTitle(q(subject.path.filename().string()) + " – Optrel");
    }
    looks_->show(subject, fields, profile);
    looks_->look_at(view_->visible(), view_->scale());
}

void PictureWindow::show_nothing() {
    shown_.clear();
    looks_->show_nothing();
    view_->clear("Choose a frame in Inspect to see it here.");
    setWindowTitle("Picture – Optrel");
}

void PictureWindow::add_keys() {
    const auto key = [this](const QKeySequence& keys, auto act) {
        connect(new QShortcut(keys, this), &QShortcut::activated, this, act);
    };
    key(QKeySequence("F11"), [this] { setWindowState(windowState() ^ Qt::WindowFullScreen); });
    key(QKeySequence("Esc"), [this] {
        if (isFullScreen())
            setWindowState(windowState() & ~Qt::WindowFullScreen);
        else
            close();
    });
    key(QKeySequence("Ctrl+Down"), [this] { emit step_asked(1); });
    key(QKeySequence("Ctrl+Up"), [this] { emit step_asked(-1); });
}

void PictureWindow::closeEvent(QCloseEvent* event) {
    set_view_setting("picture window", saveGeometry());
    QWidget::closeEvent(event);
}

}  // namespace optrel
