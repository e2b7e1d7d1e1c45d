// SPDX-License-Identifier: GPL-3.0-or-later
// What all places share: a title with its purpose, a body, and small helpers for laying things out.
#pragma once

#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QStackedWidget>
#include <QVBoxLayout>
#include <QWidget>
#include <functional>
#include <optional>

#include "frames/orientation.h"
#include "session/frame_model.h"
#include "theme.h"
#include "window_words.h"

namespace optrel {

class PlaceWidget : public QWidget {
    Q_OBJECT
public:
    explicit PlaceWidget(theme::Place place, QWidget* parent = nullptr);

    /// What has to be on the screen for a picture of the place, for instance a first row chosen.
    virtual void show_something() {}
    /// Names of views beside the first one that deserve a picture of their own, and showing one of them.
    virtual QStringList more_views() const { return {}; }
    virtual void show_view(const QString&) {}

    bool shows_empty() const { return pages_->currentIndex() == 1; }

protected:
    /// What belongs in a place that has nothing yet, and the first step towards it as a button.
    struct FirstStep {
        QString what;  ///< a few sentences
        QString step;  ///< text of the button, with a mnemonic
        std::function<void()> take;
    };
    /// Shows that in the middle of the place instead of its content; nothing shows the content.
    void show_empty(const std::optional<FirstStep>& first);
    /// The first step of a studio without frames.
    FirstStep add_frames(FrameModel& frames, const QString& what);

    QHBoxLayout* actions_;  ///< to the right of the title
    QVBoxLayout* body_;

private:
    QStackedWidget* pages_;
    QLabel* empty_what_;
    QPushButton* empty_step_;
    std::function<void()> take_step_;
};

/// Widgets one below the other in a panel, without a margin but this one above, px.
QVBoxLayout* stacked_in(QWidget* panel, int above = 0);
/// A widget inside the panel that scrolls where the panel is lower than what it holds.
QWidget* scrolled_in(QWidget* panel);
/// Buttons side by side, from the left.
QHBoxLayout* row_of(std::initializer_list<QPushButton*> buttons);
QLabel* heading(const QString& text);
QPushButton* button(const QString& text, const QString& hint, bool primary = false);
/// A line to search or filter with, with a button that clears it.
QLineEdit* search_line(const QString& accessible_name, const QString& placeholder);
/// A line for the path of a folder, with a button that asks for one, unless the line is only to be read.
QHBoxLayout* folder_row(QLineEdit* line, const QString& title);
/// A panel with a heading above its content.
QWidget* panel(const QString& title, QWidget* content);
QImage to_image(const cv::Mat3b& rgb);
QImage to_image(const cv::Mat3w& rgb);
/// The same, turned as people hold it.
template <class Picture>
QImage image_as_held(const Picture& rgb, int orientation) {
    return to_image(Picture(as_held(rgb, orientation)));
}

}  // namespace optrel
