// SPDX-License-Identifier: GPL-3.0-or-later
#include "fleet/frame_picker.h"

#include <QDropEvent>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QMimeData>
#include <QPointer>
#include <QPushButton>
#include <algorithm>
#include <memory>

#include "frames/metadata.h"
#include "jobs.h"
#include "widgets/place.h"

namespace optrel {
namespace fs = std::filesystem;
namespace {

/// Pictures in a folder and in those beneath it, by name.
std::vector<fs::path> frames_in(const fs::path& folder) {
    std::vector<fs::path> out;
    std::error_code failed;
    for (fs::recursive_directory_iterator i(folder, fs::directory_options::skip_permission_denied, failed), end;
         !failed && i != end; i.increment(failed))
        if (i->is_regular_file(failed) && named_as_picture(i->path())) out.push_back(i->path());
    std::sort(out.begin(), out.end());
    return out;
}

}  // namespace

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
    std::vector<fs::path> frames, folders;
    for (const QUrl& url : static_cast<QDropEvent*>(event)->mimeData()->urls()) {
        const fs::path path = url.toLocalFile().toStdString();
        std::error_code failed;
        (fs::is_directory(path, failed) ? folders : frames).push_back(path);
    }
    add(frames);
    add_folders(folders);
    return true;
}

void FramePicker::add_folders(const std::vector<fs::path>& folders) {
    if (folders.empty()) return;
    const auto found = std::make_shared<std::vector<fs::path>>();
    jobs_.run_quietly(
        [folders, found] {
            for (const fs::path& folder : folders) {
                const std::vector<fs::path> frames = frames_in(folder);
                found->insert(found->end(), frames.begin(), frames.end());
            }
        },
        [picker = QPointer<FramePicker>(this), found] {
            if (picker) picker->add(*found);
        });
}

void FramePicker::ask_for_frames() {
    std::vector<fs::path> frames;
    for (const QString& path : QFileDialog::getOpenFileNames(this, what_)) frames.emplace_back(path.toStdString());
    add(frames);
}

void FramePicker::ask_for_folder() {
    const QString folder = QFileDialog::getExistingDirectory(this, "Folder: " + what_);
    if (!folder.isEmpty()) add_folders({folder.toStdString()});
}

void FramePicker::add(const std::vector<fs::path>& frames) {
    for (const fs::path& frame : frames)
        if (std::find(frames_.begin(), frames_.end(), frame) == frames_.end()) frames_.push_back(frame);
    if (!frames_.empty()) chosen_->setText(QString("%1 frames").arg(frames_.size()));
    emit changed();
}

}  // namespace optrel
