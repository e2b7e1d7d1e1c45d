// SPDX-License-Identifier: GPL-3.0-or-later
// Chooses the frames of a measurement: by file, by folder, or dropped on the window.
#pragma once

#include <QLabel>
#include <QWidget>
#include <filesystem>
#include <vector>

namespace optrel {

class Jobs;

class FramePicker : public QWidget {
    Q_OBJECT
public:
    /// `what` names the frames in file dialogs. Frames that are dropped on `parent` are added too. `action`, which
    /// stands beside the other buttons, is taken over.
    FramePicker(Jobs& jobs, const QString& what, QWidget* action, QWidget* parent);

    /// Adds frames; those that are named already stay once.
    void add(const std::vector<std::filesystem::path>& frames);
    const std::vector<std::filesystem::path>& frames() const { return frames_; }

signals:
    void changed();

protected:
    bool eventFilter(QObject* watched, QEvent* event) override;

private:
    void ask_for_frames();
    void ask_for_folder();
    void take(const std::vector<std::filesystem::path>& files_and_folders);

    Jobs& jobs_;
    QString what_;
    QLabel* chosen_;
    std::vector<std::filesystem::path> frames_;
};

}  // namespace optrel
