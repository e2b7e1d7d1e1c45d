// SPDX-License-Identifier: GPL-3.0-or-later
// A line of figures beneath the picture: what lies under the pointer, or in a patch that was drawn; and what is lost of
// the picture. Copied as text.
#pragma once

#include <QComboBox>
#include <QLabel>
#include <QPushButton>
#include <QToolButton>
#include <array>

#include "render/pixel_reading.h"

namespace optrel {

class Readout : public QWidget {
    Q_OBJECT
public:
    explicit Readout(QWidget* parent = nullptr);
    void show_reading(const PixelReading& reading, const cv::Size& sensor, int orientation);
    void show_text(const QString& text);
    /// Shares of LostMark bits, percent.
    void show_lost(const std::array<double, 7>& percent);
    void hide_lost() { lost_->hide(); }
    void clear();
    QString text() const { return figures_->text(); }
    QString lost_text() const { return lost_->text(); }
    QToolButton& patch() { return *patch_; }
    QToolButton& copy() { return *copy_; }
    QComboBox& space() { return *space_; }
    QToolButton& marks() { return *marks_; }
    /// Says which profile pictures are converted to.
    QPushButton& screen() { return *screen_; }

signals:
    /// A patch is to be drawn, or no longer.
    void patch_asked(bool on);

private:
    void write();

    QLabel *figures_, *lost_;
    QComboBox* space_;
    QToolButton *marks_, *patch_, *copy_;
    QPushButton* screen_;
    std::optional<PixelReading> reading_;
    cv::Point place_;
};

}  // namespace optrel
