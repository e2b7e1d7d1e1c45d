// SPDX-License-Identifier: GPL-3.0-or-later
#include "widgets/place.h"

#include <QFileDialog>
#include <QScrollArea>

#include "base/path_text.h"

namespace optrel {

PlaceWidget::PlaceWidget(theme::Place place, QWidget* parent) : QWidget(parent) {
    setObjectName("place");
    setAccessibleName(theme::place_name(place));
    auto* outer = new QVBoxLayout(this);
    outer->setContentsMargins(12, 8, 12, 8);
    outer->setSpacing(7);
    auto* top = new QHBoxLayout;
    auto* title = new QLabel(theme::place_name(place));
    title->setObjectName("title");
    auto* purpose = new QLabel(theme::place_purpose(place));
    purpose->setObjectName("purpose");
    top->addWidget(title);
    top->addWidget(purpose);
    top->addStretch();
    actions_ = new QHBoxLayout;
    actions_->setSpacing(6);
    top->addLayout(actions_);
    outer->addLayout(top);
    pages_ = new QStackedWidget;
    auto* content = new QWidget;
    body_ = new QVBoxLayout(content);
    body_->setContentsMargins(0, 0, 0, 0);
    body_->setSpacing(7);
    pages_->addWidget(content);
    auto* empty = new QWidget;
    auto* middle = new QVBoxLayout(empty);
    empty_what_ = new QLabel;
    empty_what_->setObjectName("empty");
    empty_what_->setWordWrap(true);
    empty_what_->setAlignment(Qt::AlignHCenter);
    empty_what_->setFixedWidth(560);
    empty_step_ = button("Begin", "The first step", true);
    connect(empty_step_, &QPushButton::clicked, this, [this] {
        if (take_step_) take_step_();
    });
    middle->addStretch(2);
    middle->addWidget(empty_what_, 0, Qt::AlignHCenter);
    middle->addSpacing(12);
    middle->addWidget(empty_step_, 0, Qt::AlignHCenter);
    middle->addStretch(3);
    pages_->addWidget(empty);
    outer->addWidget(pages_, 1);
}

void PlaceWidget::show_empty(const std::optional<FirstStep>& first) {
    if (first) {
        empty_what_->setText(first->what);
        empty_step_->setText(first->step);
        empty_step_->setAccessibleName(QString(first->step).remove('&'));
        take_step_ = first->take;
    }
    pages_->setCurrentIndex(first ? 1 : 0);
}

PlaceWidget::FirstStep PlaceWidget::add_frames(FrameModel& frames, const QString& what) {
    return {what, "&Add a folder of frames…", [this, &frames] {
                const QString folder = QFileDialog::getExistingDirectory(this, "Folder with frames");
                if (!folder.isEmpty()) frames.add_folder(folder);
            }};
}

QWidget* scrolled_in(QWidget* panel) {
    auto* scroll = new QScrollArea;
    auto* inside = new QWidget;
    scroll->setWidget(inside);
    scroll->setWidgetResizable(true);
    scroll->setFrameShape(QFrame::NoFrame);
    scroll->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
    scroll->setFocusPolicy(Qt::NoFocus);
    stacked_in(panel)->addWidget(scroll);
    return inside;
}

QVBoxLayout* stacked_in(QWidget* panel, int above) {
    auto* layout = new QVBoxLayout(panel);
    layout->setContentsMargins(0, above, 0, 0);
    layout->setSpacing(3);
    return layout;
}

QHBoxLayout* row_of(std::initializer_list<QPushButton*> buttons) {
    auto* row = new QHBoxLayout;
    for (QPushButton* b : buttons) row->addWidget(b);
    row->addStretch();
    return row;
}

QLabel* heading(const QString& text) {
    auto* label = new QLabel(text);
    label->setObjectName("heading");
    return label;
}

QPushButton* button(const QString& text, const QString& hint, bool primary) {
    auto* b = new QPushButton(text);
    b->setToolTip(hint);
    // Its name is its text, also when that changes.
    b->setAccessibleDescription(hint);
    if (primary) b->setObjectName("primary");
    return b;
}

QHBoxLayout* folder_row(QLineEdit* line, const QString& title) {
    auto* row = new QHBoxLayout;
    row->addWidget(line, 1);
    if (line->isReadOnly()) return row;
    auto* choose = button("Choose…", "Chooses the folder");
    choose->setAccessibleName(title);
    QObject::connect(choose, &QPushButton::clicked, line, [=] {
        const QString folder = QFileDialog::getExistingDirectory(line, title, line->text());
        if (!folder.isEmpty()) line->setText(folder);
    });
    row->addWidget(choose);
    return row;
}

QLineEdit* search_line(const QString& accessible_name, const QString& placeholder) {
    auto* line = new QLineEdit;
    line->setAccessibleName(accessible_name);
    line->setPlaceholderText(placeholder);
    line->setClearButtonEnabled(true);
    for (QAbstractButton* clear : line->findChildren<QAbstractButton*>())
        clear->setAccessibleName("Clear " + accessible_name.toLower());
    return line;
}

QWidget* panel(const QString& title, QWidget* content) {
    auto* w = new QWidget;
    auto* layout = new QVBoxLayout(w);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(2);
    layout->addWidget(heading(title));
    layout->addWidget(content, 1);
    return w;
}

QImage to_image(const cv::Mat3b& rgb) {
    return QImage(rgb.data, rgb.cols, rgb.rows, static_cast<qsizetype>(rgb.step), QImage::Format_RGB888).copy();
}

QImage to_image(const cv::Mat3w& rgb) {
    QImage image(rgb.cols, rgb.rows, QImage::Format_RGB888);
    for (int row = 0; row < rgb.rows; ++row) {
        const cv::Vec3w* in = rgb.ptr<cv::Vec3w>(row);
        uchar* out = image.scanLine(row);
        for (int i = 0; i < rgb.cols; ++i)
            for (int c = 0; c < 3; ++c) out[3 * i + c] = static_cast<uchar>((in[i][c] * 255u + 32767u) / 65535u);
    }
    return image;
}

}  // namespace optrel
