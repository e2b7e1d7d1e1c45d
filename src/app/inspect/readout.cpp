// SPDX-License-Identifier: GPL-3.0-or-later
#include "inspect/readout.h"

#include <QApplication>
#include <QClipboard>
#include <QHBoxLayout>
#include <QVBoxLayout>

#include "base/figure_text.h"
#include "frames/orientation.h"
#include "theme.h"
#include "window_words.h"

namespace optrel {

Readout::Readout(QWidget* parent) : QWidget(parent) {
    figures_ = new QLabel;
    figures_->setTextInteractionFlags(Qt::TextSelectableByMouse);
    figures_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    figures_->setWordWrap(true);
    lost_ = new QLabel;
    lost_->setObjectName("faint");
    lost_->setWordWrap(true);
    lost_->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
    lost_->hide();
    space_ = new QComboBox;
    for (int i = 0; i < colour_space_count; ++i) {
        const auto space = static_cast<ColourSpace>(i);
        if (space != ColourSpace::camera) space_->addItem(q(name_of(space)), i);
    }
    space_->setAccessibleName("Colour space of the figures");
    space_->setToolTip("The colour space that developed values are told in");
    const auto tool = [](const QString& text, const QString& hint) {
        auto* b = new QToolButton;
        b->setText(text);
        b->setAccessibleName(QString(text).remove('&'));
        b->setToolTip(hint);
        b->setStyleSheet("padding: 3px 7px");
        return b;
    };
    patch_ = tool("P&atch", "Draw a patch on the picture: mean and standard deviation of its counts and of CIELAB");
    patch_->setCheckable(true);
    copy_ = tool("Cop&y figures", "Copies the line as text");
    marks_ = tool("&Marks",
                  "Patterns over what is lost: clipped in the raw or by development, black, or beyond what the screen "
                  "can show");
    marks_->setCheckable(true);
    screen_ = new QPushButton;
    screen_->setStyleSheet("padding: 3px 7px");
    auto* row = new QHBoxLayout;
    row->setContentsMargins(0, 0, 0, 0);
    row->setSpacing(4);
    row->addWidget(screen_);
    row->addStretch();
    row->addWidget(marks_);
    row->addWidget(space_);
    row->addWidget(patch_);
    row->addWidget(copy_);
    auto* down = new QVBoxLayout(this);
    down->setContentsMargins(0, 0, 0, 0);
    down->setSpacing(2);
    down->addWidget(figures_);
    down->addWidget(lost_);
    down->addLayout(row);
    connect(space_, &QComboBox::currentIndexChanged, this, &Readout::write);
    connect(patch_, &QToolButton::clicked, this, &Readout::patch_asked);
    connect(copy_, &QToolButton::clicked, this, [this] { QApplication::clipboard()->setText(figures_->text()); });
    clear();
}

void Readout::show_reading(const PixelReading& reading, const cv::Size& sensor, int orientation) {
    reading_ = reading;
    const cv::Rect& a = reading.area;
    const cv::Point2d one = place_as_held({double(a.x), double(a.y)}, sensor, orientation),
                      other = place_as_held({double(a.br().x), double(a.br().y)}, sensor, orientation);
    place_ = {static_cast<int>(std::min(one.x, other.x)), static_cast<int>(std::min(one.y, other.y))};
    write();
}

void Readout::write() {
    if (!reading_) return;
    figures_->setText(q(in_words(*reading_, static_cast<ColourSpace>(space_->currentData().toInt()), place_)));
    copy_->setEnabled(true);
}

void Readout::show_text(const QString& text) {
    reading_.reset();
    figures_->setText(text);
    copy_->setEnabled(false);
}

void Readout::show_lost(const std::array<double, 7>& p) {
    const auto share = [&](int bit) { return q(number_text(figures::fine_share, p[static_cast<std::size_t>(bit)])); };
    lost_->setText(QString("Of the picture, clipped in the raw (rising strokes): R %1, G %2, B %3 %; by development "
                           "(vertical strokes): %4 %; black (falling strokes): %5 % in the raw, %6 % developed; beyond "
                           "the screen's colours (dots): %7 %")
                       .arg(share(0), share(1), share(2), share(4), share(3), share(5), share(6)));
    lost_->show();
}

void Readout::clear() {
    show_text("Point at the picture: raw counts after black, developed values and CIELAB stand here.");
    lost_->hide();
}

}  // namespace optrel
