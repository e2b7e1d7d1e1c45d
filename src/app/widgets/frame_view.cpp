// SPDX-License-Identifier: GPL-3.0-or-later
#include "widgets/frame_view.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <cmath>

#include "base/ticks.h"
#include "theme.h"

namespace optrel {
FrameView::FrameView(QWidget* parent) : QWidget(parent) {
    setMinimumSize(260, 180);
    setAccessibleName("Frame with corners and residuals");
    setFocusPolicy(Qt::StrongFocus);
}

void FrameView::set_frame(const QImage& picture, QSizeF frame_size) {
    picture_ = picture;
    size_ = frame_size;
    update();
}

void FrameView::set_corners(std::vector<CornerMark> corners) {
    corners_ = std::move(corners);
    if (chosen_ >= corner_count()) chosen_ = -1;
    update();
}

void FrameView::set_means(std::vector<CornerMark> means) {
    means_ = std::move(means);
    update();
}

void FrameView::set_labels(std::vector<std::pair<QPointF, QString>> labels) {
    written_ = std::move(labels);
    update();
}

void FrameView::point_at(std::optional<QPointF> place) {
    pointed_ = place;
    update();
}

void FrameView::choose_corner(int index) {
    chosen_ = index;
    update();
}

void FrameView::clear(const QString& why) {
    picture_ = QImage();
    corners_.clear();
    means_.clear();
    written_.clear();
    pointed_.reset();
    chosen_ = -1;
    why_empty_ = why;
    size_ = {};
    update();
}

QRectF FrameView::picture_area() const {
    const double s = std::min((width() - 12) / size_.width(), (height() - 34) / size_.height());
    return {(width() - size_.width() * s) / 2, (height() - 22 - size_.height() * s) / 2, size_.width() * s,
            size_.height() * s};
}

QPoint FrameView::on_screen(const QPointF& place) const {
    const QRectF area = picture_area();
    return (area.topLeft() + place * (area.width() / size_.width())).toPoint();
}

/// Magnification of residuals, so that the 90th percentile is about 22 px long.
double FrameView::exaggeration(const std::vector<CornerMark>& marks, double scale, double& reference) const {
    std::vector<double> sizes;
    for (const CornerMark& c : marks)
        if (c.solved && !c.rejected) sizes.push_back(std::hypot(c.residual.x(), c.residual.y()));
    if (sizes.empty()) return 0;
    std::nth_element(sizes.begin(), sizes.begin() + sizes.size() * 9 / 10, sizes.end());
    reference = std::max(1e-4, sizes[sizes.size() * 9 / 10]);
    return round_below(22 / (reference * scale));
}

void FrameView::draw_arrow(QPainter& p, const QPointF& from, const QPointF& to, const QColor& colour,
                           double width) const {
    p.setPen(QPen(colour, width));
    p.drawLine(from, to);
    const double length = std::hypot(to.x() - from.x(), to.y() - from.y());
    if (length <= 4) return;
    const QPointF u = (to - from) / length, n(-u.y(), u.x());
    p.drawLine(to, to - (3 + width) * u + (1 + width) * n);
    p.drawLine(to, to - (3 + width) * u - (1 + width) * n);
}

void FrameView::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), theme::surround);
    if (size_.isEmpty() || (picture_.isNull() && corners_.empty())) {
        p.setPen(Qt::white);
        p.drawText(rect().adjusted(30, 0, -30, 0), Qt::AlignCenter | Qt::TextWordWrap, why_empty_);
        return;
    }
    const QRectF to = picture_area();
    const double s = to.width() / size_.width();
    p.setClipRect(rect());  // independent of the widget's background
    p.setRenderHint(QPainter::SmoothPixmapTransform);
    if (picture_.isNull()) {
        p.fillRect(to, theme::paper);
    } else {
        p.drawImage(to, picture_);
        p.fillRect(to, QColor(255, 255, 255, 90));  // for contrast with the marks
    }
    double reference = 0;
    const double times = exaggeration(means_.empty() ? corners_ : means_, s, reference);
    for (int i = 0; i < static_cast<int>(corners_.size()); ++i) draw_corner(p, i, to.topLeft(), s, times);
    for (const CornerMark& c : means_)
        draw_arrow(p, to.topLeft() + c.place * s, to.topLeft() + (c.place + c.residual * times) * s, theme::ink, 2);
    draw_notes(p, to, s);
    draw_legend(p, s, times, reference);
    if (hasFocus()) {
        p.setPen(QPen(theme::picture_mark, 1.5));
        p.setBrush(Qt::NoBrush);
        p.drawRect(QRectF(rect()).adjusted(1, 1, -2, -2));
    }
}

void FrameView::draw_corner(QPainter& p, int i, const QPointF& origin, double s, double times) const {
    const CornerMark& c = corners_[i];
    const QPointF at = origin + c.place * s;
    if (c.rejected) {
        p.setPen(QPen(theme::serious, 1.6));
        p.drawLine(at + QPointF(-4, -4), at + QPointF(4, 4));
        p.drawLine(at + QPointF(-4, 4), at + QPointF(4, -4));
    } else if (!means_.empty()) {
        p.setPen(QPen(QColor(150, 90, 10, 90), 0.8));
        p.drawLine(at, at + c.residual * s * times);
    } else {
        p.setPen(QPen(theme::picture_mark, 1.1));
        p.setBrush(Qt::NoBrush);
        p.drawEllipse(at, 2.4, 2.4);
        if (c.solved) draw_arrow(p, at, at + c.residual * s * times, theme::picture_warning, 1.4);
    }
    if (i != chosen_) return;
    p.setPen(QPen(theme::picture_mark, 2));
    p.setBrush(Qt::NoBrush);
    p.drawRect(QRectF(at.x() - 9, at.y() - 9, 18, 18));
}

/// Texts at positions in the picture, and the position under the pointer.
void FrameView::draw_notes(QPainter& p, const QRectF& to, double s) const {
    p.setFont(theme::figure_font(8));
    for (const auto& [place, text] : written_) {
        QRectF box = p.fontMetrics().boundingRect(text).adjusted(-3, -1, 3, 1);
        box.moveCenter(to.topLeft() + place * s);
        p.fillRect(box, theme::tag_paper());
        p.setPen(theme::ink);
        p.drawText(box, Qt::AlignCenter, text);
    }
    if (pointed_) {
        p.setPen(QPen(theme::serious, 2, Qt::DashLine));
        p.setBrush(Qt::NoBrush);
        p.drawEllipse(to.topLeft() + *pointed_ * s, 0.09 * to.width(), 0.09 * to.width());
    }
}

void FrameView::draw_legend(QPainter& p, double s, double times, double reference) const {
    const bool crowd = !means_.empty();
    const QRectF strip(0, height() - 22, width(), 22);
    p.fillRect(strip, theme::bench);
    p.setPen(theme::faint_ink);
    p.setFont(theme::text_font(8.5));
    if (times > 0) {
        const double shown = round_below(reference), length = shown * s * times;
        p.setPen(QPen(crowd ? theme::ink : theme::picture_warning, 2));
        p.drawLine(QPointF(10, strip.center().y()), QPointF(10 + length, strip.center().y()));
        p.setPen(theme::faint_ink);
        QString legend = QString("%1 px residual, drawn × %2    ○ corner  × not used").arg(shown).arg(times);
        if (crowd) legend = QString("%1 px, drawn × %2    bold: mean of a part of the picture").arg(shown).arg(times);
        if (!meaning_.isEmpty()) legend = QString("%1 px %2, drawn × %3").arg(shown).arg(meaning_).arg(times);
        p.drawText(strip.adjusted(18 + length, 0, 0, 0), Qt::AlignVCenter, legend);
    } else {
        p.drawText(strip.adjusted(10, 0, 0, 0), Qt::AlignVCenter,
                   corners_.empty() ? "no corners" : "○ measured corner; residuals appear after solving");
    }
}

void FrameView::mousePressEvent(QMouseEvent* event) {
    setFocus();
    if (size_.isEmpty()) return;
    const QRectF to = picture_area();
    const double s = to.width() / size_.width();
    int nearest = -1;
    double least = 14;
    for (int i = 0; i < corner_count(); ++i) {
        const QPointF d = to.topLeft() + corners_[i].place * s - event->position();
        if (const double away = std::hypot(d.x(), d.y()); away < least) {
            least = away;
            nearest = i;
        }
    }
    if (nearest < 0) return;
    choose_corner(nearest);
    emit corner_chosen(nearest);
}

void FrameView::keyPressEvent(QKeyEvent* event) {
    const bool on = event->key() == Qt::Key_Right || event->key() == Qt::Key_Down,
               back = event->key() == Qt::Key_Left || event->key() == Qt::Key_Up;
    const int move = static_cast<int>(on) - static_cast<int>(back);
    if (move && corner_count() > 0) {
        choose_corner((chosen_ + move + corner_count()) % corner_count());
        emit corner_chosen(chosen_);
    } else if (event->key() == Qt::Key_Delete && chosen_ >= 0) {
        emit drop_asked(chosen_);
    } else {
        QWidget::keyPressEvent(event);
    }
}

}  // namespace optrel
