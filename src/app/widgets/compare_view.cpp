// SPDX-License-Identifier: GPL-3.0-or-later
#include "widgets/compare_view.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <cmath>

#include "theme.h"

namespace optrel {

CompareView::CompareView(QWidget* parent)
    : QWidget(parent), why_empty_("Choose a frame in the table to see it before and after.") {
    setMinimumSize(320, 220);
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setAccessibleName("Picture before and after");
}

void CompareView::set_pictures(const QImage& before, const QImage& after) {
    before_ = before;
    after_ = after;
    update();
}

void CompareView::clear(const QString& why) {
    before_ = after_ = QImage();
    why_empty_ = why;
    update();
}

void CompareView::set_mode(Mode mode) {
    mode_ = mode;
    update();
    emit mode_changed();
}

void CompareView::set_zoom(double zoom) {
    zoom_ = zoom;
    update();
}

void CompareView::set_grid(bool on) {
    grid_ = on;
    update();
}

void CompareView::look_at(QPointF place) {
    centre_ = {std::clamp(place.x(), 0.0, 1.0), std::clamp(place.y(), 0.0, 1.0)};
    update();
}

int CompareView::split_x() const { return static_cast<int>(std::lround(split_ * width())); }

QRectF CompareView::picture_rect() const {
    const QSizeF size = after_.size();
    if (size.isEmpty()) return {};
    if (zoom_ == 0) {
        const double s = std::min((width() - 16) / size.width(), (height() - 16) / size.height());
        const QSizeF shown = size * s;
        return {QPointF((width() - shown.width()) / 2, (height() - shown.height()) / 2), shown};
    }
    const double s = zoom_ / devicePixelRatioF();
    return {QPointF(std::round(width() / 2.0 - centre_.x() * size.width() * s),
                    std::round(height() / 2.0 - centre_.y() * size.height() * s)),
            size * s};
}

void CompareView::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.fillRect(rect(), theme::surround);
    if (after_.isNull()) {
        p.setPen(Qt::white);
        p.drawText(rect().adjusted(40, 0, -40, 0), Qt::AlignCenter | Qt::TextWordWrap, why_empty_);
        if (hasFocus()) p.drawRect(rect().adjusted(1, 1, -2, -2));
        return;
    }
    const QRectF to = picture_rect();
    p.setRenderHint(QPainter::SmoothPixmapTransform, zoom_ == 0);
    const auto draw = [&](const QImage& image, const QRectF& clip) {
        p.save();
        p.setClipRect(clip);
        p.drawImage(to, image);
        p.restore();
    };
    const double x = split_x();
    if (mode_ == Mode::split) {
        draw(before_, QRectF(0, 0, x, height()));
        draw(after_, QRectF(x, 0, width() - x, height()));
    } else {
        draw(mode_ == Mode::before ? before_ : after_, rect());
    }
    if (grid_) {
        p.setPen(QPen(QColor(20, 90, 105, 150), 1));
        for (int i = 0; i <= 12; ++i)
            p.drawLine(QPointF(to.left() + i / 12.0 * to.width(), to.top()),
                       QPointF(to.left() + i / 12.0 * to.width(), to.bottom()));
        for (int i = 0; i <= 8; ++i)
            p.drawLine(QPointF(to.left(), to.top() + i / 8.0 * to.height()),
                       QPointF(to.right(), to.top() + i / 8.0 * to.height()));
    }
    const auto tag = [&](const QString& text, bool left) {
        QFont f = theme::text_font(9);
        f.setBold(true);
        p.setFont(f);
        const QRectF box = QRectF(left ? 8 : width() - 78, 8, 70, 20);
        p.fillRect(box, QColor(250, 250, 247, 225));
        p.setPen(theme::ink);
        p.drawText(box, Qt::AlignCenter, text);
    };
    if (mode_ != Mode::after) tag("before", true);
    if (mode_ != Mode::before) tag("after", false);
    if (mode_ == Mode::split) {
        p.setPen(QPen(Qt::white, 3));
        p.drawLine(QPointF(x, 0), QPointF(x, height()));
        p.setPen(QPen(theme::mark, 1));
        p.drawLine(QPointF(x, 0), QPointF(x, height()));
        p.setBrush(theme::paper);
        p.setPen(QPen(theme::mark, 1.5));
        p.drawRect(QRectF(x - 5, height() / 2.0 - 16, 10, 32));
    }
    if (hasFocus()) {
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(theme::mark, 2));
        p.drawRect(rect().adjusted(1, 1, -1, -1));
    }
}

void CompareView::mousePressEvent(QMouseEvent* event) {
    drag_from_ = event->position();
    dragging_split_ = mode_ == Mode::split && std::abs(event->position().x() - split_x()) < 8;
}

void CompareView::mouseMoveEvent(QMouseEvent* event) {
    if (mode_ == Mode::split && std::abs(event->position().x() - split_x()) < 8)
        setCursor(Qt::SplitHCursor);
    else
        setCursor(zoom_ > 0 ? Qt::OpenHandCursor : Qt::ArrowCursor);
    if (!(event->buttons() & Qt::LeftButton)) return;
    if (dragging_split_) {
        split_ = std::clamp(event->position().x() / width(), 0.0, 1.0);
        update();
    } else if (zoom_ > 0 && !after_.isNull()) {
        const QPointF moved = (event->position() - drag_from_) * devicePixelRatioF() / zoom_;
        look_at(centre_ - QPointF(moved.x() / after_.width(), moved.y() / after_.height()));
        drag_from_ = event->position();
    }
}

void CompareView::mouseReleaseEvent(QMouseEvent*) { dragging_split_ = false; }

void CompareView::keyPressEvent(QKeyEvent* event) {
    const double step = zoom_ > 0 ? 0.05 : 0.02;
    switch (event->key()) {
        case Qt::Key_Space:  // swaps
            set_mode(mode_ == Mode::after ? Mode::before : Mode::after);
            return;
        case Qt::Key_Left:
        case Qt::Key_Right: {
            const double d = event->key() == Qt::Key_Left ? -step : step;
            if (mode_ == Mode::split && zoom_ == 0) {
                split_ = std::clamp(split_ + d, 0.0, 1.0);
                update();
            } else {
                look_at(centre_ + QPointF(d, 0));
            }
            return;
        }
        case Qt::Key_Up: look_at(centre_ - QPointF(0, step)); return;
        case Qt::Key_Down: look_at(centre_ + QPointF(0, step)); return;
        default: QWidget::keyPressEvent(event);
    }
}

}  // namespace optrel
