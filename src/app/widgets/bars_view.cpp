// SPDX-License-Identifier: GPL-3.0-or-later
#include "widgets/bars_view.h"

#include <QHelpEvent>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>
#include <cmath>

#include "base/choose.h"
#include "base/ticks.h"
#include "theme.h"

namespace optrel {

BarsView::BarsView(const QString& accessible_name, const QString& x_title, const QString& y_title, QWidget* parent)
    : QWidget(parent), x_title_(x_title), y_title_(y_title) {
    setAccessibleName(accessible_name);
    setMinimumSize(160, 90);
    setFocusPolicy(Qt::StrongFocus);
}

void BarsView::set_bars(std::vector<Bar> bars, int chosen) {
    bars_ = std::move(bars);
    chosen_ = chosen;
    update();
}

void BarsView::choose(int bar) {
    chosen_ = bar;
    update();
}

QRectF BarsView::plot() const { return QRectF(rect()).adjusted(46, 8, -8, -32); }

int BarsView::bar_at(const QPointF& at) const {
    const QRectF area = plot();
    if (bars_.empty() || at.x() < area.left() || at.x() >= area.right()) return -1;
    return static_cast<int>((at.x() - area.left()) / area.width() * bars_.size());
}

QPoint BarsView::middle_of(int bar) const {
    const QRectF area = plot();
    return QPointF(area.left() + (bar + 0.5) * area.width() / bars_.size(), area.bottom() - 4).toPoint();
}

void BarsView::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), theme::paper);
    p.setPen(theme::rule);
    p.drawRect(rect().adjusted(0, 0, -1, -1));
    const QRectF area = plot();
    double most = 0;
    for (const Bar& b : bars_) most = std::max(most, b.value);
    if (most <= 0) most = 1;
    // A round value at the top of the scale.
    const double top = tick_step(most, 1);
    p.setFont(theme::figure_font(7.5));
    p.setPen(theme::faint_ink);
    for (const double share : {0.0, 0.5, 1.0}) {
        const double y = area.bottom() - share * area.height();
        p.setPen(QColor(228, 230, 224));
        p.drawLine(QPointF(area.left(), y), QPointF(area.right(), y));
        p.setPen(theme::faint_ink);
        p.drawText(QRectF(0, y - 8, area.left() - 4, 16), Qt::AlignRight | Qt::AlignVCenter,
                   QString::number(share * top, 'g', 3));
    }
    const double step = bars_.empty() ? 0 : area.width() / bars_.size();
    for (std::size_t i = 0; i < bars_.size(); ++i) {
        const double h = bars_[i].value / top * area.height();
        const QRectF bar(area.left() + i * step + 0.12 * step, area.bottom() - h, 0.76 * step, h);
        p.fillRect(bar, first_of<QColor>({{static_cast<int>(i) == chosen_, theme::mark}, {bars_[i].faint, theme::rule}},
                                         QColor(120, 150, 154)));
        if (static_cast<int>(i) == chosen_) {
            p.setPen(QPen(theme::ink, 1));
            p.drawRect(bar);
        }
    }
    // Labels where they fit, every one or every few.
    const int every = step > 0 ? std::max(1, static_cast<int>(std::ceil(38 / step))) : 1;
    p.setPen(theme::faint_ink);
    for (std::size_t i = 0; i < bars_.size(); i += every)
        p.drawText(QRectF(area.left() + i * step - 20, area.bottom() + 1, step + 40, 14),
                   Qt::AlignHCenter | Qt::AlignTop, bars_[i].label);
    p.setFont(theme::text_font(8));
    p.drawText(QRectF(area.left(), area.bottom() + 14, area.width(), 16), Qt::AlignCenter, x_title_);
    p.save();
    p.translate(10, area.center().y());
    p.rotate(-90);
    p.drawText(QRectF(-area.height(), -8, 2 * area.height(), 16), Qt::AlignCenter, y_title_);
    p.restore();
    p.setPen(theme::faint_ink);
    p.drawLine(area.bottomLeft(), area.bottomRight());
    if (hasFocus()) {
        p.setPen(QPen(theme::mark, 1.5));
        p.setBrush(Qt::NoBrush);
        p.drawRect(QRectF(rect()).adjusted(1, 1, -2, -2));
    }
}

void BarsView::mousePressEvent(QMouseEvent* event) {
    const int bar = bar_at(event->position());
    if (bar < 0) return;
    choose(bar);
    emit bar_clicked(bar);
}

void BarsView::keyPressEvent(QKeyEvent* event) {
    const int move = static_cast<int>(event->key() == Qt::Key_Right) - static_cast<int>(event->key() == Qt::Key_Left);
    if (!move || bars_.empty()) {
        QWidget::keyPressEvent(event);
        return;
    }
    choose(std::clamp(chosen_ + move, 0, count() - 1));
    emit bar_clicked(chosen_);
}

bool BarsView::event(QEvent* event) {
    if (event->type() == QEvent::ToolTip) {
        auto* help = static_cast<QHelpEvent*>(event);
        const int bar = bar_at(help->pos());
        if (bar >= 0) QToolTip::showText(help->globalPos(), bars_[bar].hint, this);
        return true;
    }
    return QWidget::event(event);
}

}  // namespace optrel
