// SPDX-License-Identifier: GPL-3.0-or-later
// Which profile pictures are converted to for the screen, and how.
#pragma once

#include <QCheckBox>
#include <QComboBox>
#include <QDialog>
#include <QLabel>
#include <functional>

namespace optrel {

class ScreenDialog : public QDialog {
    Q_OBJECT
public:
    explicit ScreenDialog(QWidget* parent);
    void choose_file(const QString& path);
    QComboBox& ground() { return *ground_; }

private:
    void refresh();
    void attempt(const std::function<void()>& change);

    QLabel *screen_, *profile_, *problem_;
    QComboBox *intent_, *ground_;
    QCheckBox* black_point_;
    QPushButton* forget_;
};

}  // namespace optrel
