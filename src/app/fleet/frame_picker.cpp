// SPDX-License-Identifier: GPL-3.0-or-later
#include "fleet/frame_picker.h"

#include <QDropEvent>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QMimeData>
#include <QPushButton>
#include <algorithm>

#include "shared/dropped_frames.h"
#include "widgets/place.h"

namespace optrel {
namespace fs = std::filesystem;
FramePicker::FramePicker(Jobs& jobs, const QString& what, QWidget* action, QWidget* parent)
    : QWidget(parent), jobs_(jobs), what_(what) {
    auto* files = button("Add &frames…", "Raw frames of one body");
    auto* folder = button("Add a f&older…", "All frames of a folder and of those beneath it");
    chosen_ = new QLabel("No frames yet. Add them, or drop them here.");
    connect(files, &QPushButton::clicked, this, &FramePicker::ask_for_frames);
    connect(folder, &QPushButton::clicked, this, &FramePicker::ask_for_folder);
    auto* line = new QHBoxLayout(this);
    line->setContentsMargins(0, 0, 0, 0);
    line->addWidget(chosen_, 1);
    for (QWidget* b : std::initializer_list<QWidget*>{files, folder, action}) line->addWidget(b);
    parent->setAcceptDrops(true);
    parent->installEventFilter(this);
}

bool FramePicker::eventFilter(QObject* watched, QEvent* event) {
    if (event->type() == QEvent::DragEnter) {
        auto* drag = static_cast<QDropEvent*>(event);
        if (drag->mimeData()->hasUrls()) drag->acceptProposedAction();
        return true;
    }
    if (event->type() != QEvent::Drop) return QWidget::eventFilter(watched, event);
    take(dropped_paths(*static_cast<QDropEvent*>(event)));
    return true;
}

void FramePicker::take(const std::vector<fs::path>& files_and_folders) {
    list_frames(jobs_, files_and_folders, this, [this](const auto& frames) { add(frames); });
}

void FramePicker::ask_for_frames() {
    std::vector<fs::path> frames;
    for (const QString& path : QFileDialog::getOpenFileNames(this, what_)) frames.emplace_back(path.toStdString());
    add(frames);
}

void FramePicker::ask_for_folder() {
    const QString folder = QFileDialog::getExistingDirectory(this, "Folder: " + what_);
    if (!folder.isEmpty()) take({folder.toStdString()});
}

void FramePicker::add(const std::vector<fs::path>& frames) {
    for (const fs::path& frame : frames)
        if (std::find(frames_.begin(), frames_.end(), frame) == frames_.end()) frames_.push_back(frame);
    if (!frames_.empty()) chosen_->setText(QString("%1 frames").arg(frames_.size()));
    emit changed();
}

}  // namespace optrel
