// SPDX-License-Identifier: GPL-3.0-or-later
#include "widgets/bars_view.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

#include "base/choose.h"
#include "theme.h"

namespace optrel {

BarsView::BarsView(const QString& accessible_name, const QString& x_title, const QString& y_title, QWidget* parent)
    : PlotView(accessible_name, parent), x_title_(x_title), y_title_(y_title) {
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

std::pair<PlotScale, PlotScale> BarsView::scales(const QSizeF& area) const {
    PlotScale x{x_title_, 0, static_cast<double>(std::max(1, count())), {}};
    for (int i = 0; i < count(); ++i) x.ticks.push_back({i + 0.5, bars_[i].label});
    double most = 0;
    for (const Bar& b : bars_) most = std::max(most, b.value);
    const int ticks = std::clamp(static_cast<int>(area.height() / 26), 1, 4);
    return {x, PlotScale::of(y_title_, round_range(0, most > 0 ? most : 1, 0, ticks))};
}

int BarsView::bar_at(const QPointF& at) const {
    const PlotArea now = plot();
    if (bars_.empty() || at.x() < now.box.left() || at.x() >= now.box.right()) return -1;
    return static_cast<int>(now.value_at(at).x());
}

QPoint BarsView::middle_of(int bar) const {
    const PlotArea now = plot();
    return (now.at(bar + 0.5, now.y.low) - QPointF(0, 4)).toPoint();
}

void BarsView::paint_data(QPainter& p, const PlotArea& plot) const {
    for (int i = 0; i < count(); ++i) {
        const QRectF bar(plot.at(i + 0.12, bars_[i].value), plot.at(i + 0.88, 0));
        p.fillRect(
            bar, first_of<QColor>({{i == chosen_, theme::mark}, {bars_[i].faint, theme::rule}}, QColor(120, 150, 154)));
        if (i != chosen_) continue;
        p.setPen(QPen(theme::ink, 1));
        p.drawRect(bar);
    }
}

QString BarsView::hint_at(const QPointF& at) const {
    const int bar = bar_at(at);
    return bar < 0 ? QString() : bars_[bar].hint;
}

PlotView::Cells BarsView::cells() const {
    Cells rows{{x_title_.toStdString(), y_title_.toStdString()}};
    for (const Bar& b : bars_) rows.push_back({b.label.toStdString(), QString::number(b.value).toStdString()});
    return rows;
}

void BarsView::mousePressEvent(QMouseEvent* event) {
    const int bar = bar_at(event->position());
    if (bar < 0 || event->button() != Qt::LeftButton) return;
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

}  // namespace optrel
