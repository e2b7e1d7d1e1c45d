// SPDX-License-Identifier: GPL-3.0-or-later
#include "widgets/ramp_editor.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>
#include <algorithm>
#include <cmath>

#include "theme.h"

namespace optrel {

RampEditor::RampEditor(const QString& accessible_name, QWidget* parent) : PlotView(accessible_name, parent) {
    keep_head(true);
    setAccessibleDescription(
        "Drag a knot; double-click adds one; arrow keys move the chosen one, Tab goes to the next, Delete takes it "
        "out");
    setFocusPolicy(Qt::StrongFocus);
}

void RampEditor::set_scale(const QString& title, double low, double high, int decimals) {
    title_ = title;
    low_limit_ = low;
    high_limit_ = high;
    decimals_ = decimals;
    set_head(title_, hint_);
    find_range();
}

void RampEditor::set_knots(std::vector<Knot> knots, bool editable) {
    knots_ = std::move(knots);
    editable_ = editable;
    held_ = -1;
    chosen_ = std::min(chosen_, static_cast<int>(knots_.size()) - 1);
    find_range();
}

void RampEditor::set_resolved(std::vector<Knot> curve, const QString& label) {
    resolved_ = std::move(curve);
    resolved_label_ = label;
    find_range();
}

void RampEditor::set_frames(std::vector<Bar> bars) {
    bars_ = std::move(bars);
    find_range();
}

void RampEditor::set_hint(const QString& hint) {
    hint_ = hint;
    set_head(title_, hint_);
}

/// The axes include all data, in whole stops, with a margin.
void RampEditor::find_range() {
    double least = INFINITY, most = -INFINITY, first = 0, last = 7;
    for (const auto* list : {&knots_, &resolved_})
        for (const Knot& k : *list) {
            least = std::min(least, k.value);
            most = std::max(most, k.value);
            first = std::min(first, std::floor(std::log2(k.iso / 100)));
            last = std::max(last, std::ceil(std::log2(k.iso / 100)));
        }
    for (const Bar& b : bars_) {
        first = std::min(first, std::floor(std::log2(b.iso / 100)));
        last = std::max(last, std::ceil(std::log2(b.iso / 100)));
    }
    first_stop_ = std::max(-4.0, first);
    last_stop_ = std::min(17.0, last);
    if (least > most) least = most = 0;
    const double span =
        std::max(most - least, decimals_ ? (high_limit_ - low_limit_) * 0.05 : (high_limit_ - low_limit_) * 0.2);
    low_ = std::max(low_limit_, least - 0.25 * span);
    high_ = std::min(high_limit_, most + 0.35 * span);
    if (high_ <= low_) high_ = low_ + 1;
    update();
}

QString RampEditor::empty_text() const { return "A ramp over ISO appears here."; }

std::pair<PlotScale, PlotScale> RampEditor::scales(const QSizeF& area) const {
    const int most = most_frames();
    QString below = "ISO";
    if (most) below += QString("; bars: frames, the tallest %1").arg(most);
    if (!resolved_.empty() && !resolved_label_.isEmpty()) below += "; dashed: what " + resolved_label_ + " gets";
    PlotScale x{below, first_stop_, last_stop_, {}};
    for (double stop = std::ceil(first_stop_); stop <= last_stop_; ++stop)
        x.ticks.push_back({stop, QString::number(std::round(100 * std::exp2(stop)))});
    const int ticks = std::clamp(static_cast<int>(area.height() / 26), 1, 5);
    return {x, PlotScale::of({}, round_range(low_, high_, 0, ticks))};
}

QPointF RampEditor::at(const PlotArea& plot, double iso, double value) { return plot.at(std::log2(iso / 100), value); }
double RampEditor::iso_at(const PlotArea& plot, double x) const {
    return 100 * std::exp2(std::clamp(plot.value_at({x, 0}).x(), first_stop_, last_stop_));
}
double RampEditor::value_at(const PlotArea& plot, double y) const {
    const double v = plot.value_at({0, y}).y(), step = std::pow(10.0, decimals_);
    return std::clamp(std::round(v * step) / step, low_limit_, high_limit_);
}

int RampEditor::knot_near(const QPointF& p) const {
    const PlotArea now = plot();
    for (std::size_t i = 0; i < knots_.size(); ++i)
        if ((at(now, knots_[i].iso, knots_[i].value) - p).manhattanLength() < 12) return static_cast<int>(i);
    return -1;
}

void RampEditor::paint_data(QPainter& g, const PlotArea& plot) const {
    paint_bars(g, plot);
    paint_curves(g, plot);
}

/// Histogram of the frames on its own scale: the highest bar is a third of the plot.
void RampEditor::paint_bars(QPainter& g, const PlotArea& plot) const {
    const int most = most_frames();
    const QRectF& p = plot.box;
    const double bar_width = std::max(3.0, p.width() / std::max(1.0, 3 * (last_stop_ - first_stop_)) * 0.62);
    for (const Bar& b : bars_) {
        const double x = at(plot, b.iso, 0).x(), height = most ? p.height() / 3 * b.frames / most : 0;
        g.fillRect(QRectF(x - bar_width / 2, p.bottom() - height, bar_width, height), theme::rule);
    }
}

int RampEditor::most_frames() const {
    int most = 0;
    for (const Bar& b : bars_) most = std::max(most, b.frames);
    return most;
}

void RampEditor::paint_curves(QPainter& g, const PlotArea& plot) const {
    const auto curve = [&](const std::vector<Knot>& points) {
        QPolygonF line;
        for (const Knot& k : points) line << at(plot, k.iso, k.value);
        return line;
    };
    g.save();
    g.setClipRect(plot.box.adjusted(-6, -8, 6, 6));
    if (!resolved_.empty()) {
        g.setPen(QPen(theme::faint_ink, 1.2, Qt::DashLine));
        g.drawPolyline(curve(resolved_));
    }
    if (!knots_.empty()) {
        std::vector<Knot> whole = knots_;
        whole.insert(whole.begin(), {100 * std::exp2(first_stop_), knots_.front().value});
        whole.push_back({100 * std::exp2(last_stop_), knots_.back().value});
        g.setPen(QPen(theme::mark, 1.8));
        g.drawPolyline(curve(whole));
        for (std::size_t i = 0; i < knots_.size(); ++i) {
            const QPointF c = at(plot, knots_[i].iso, knots_[i].value);
            g.setBrush(static_cast<int>(i) == chosen_ ? theme::mark : theme::paper);
            g.drawRect(QRectF(c.x() - 4, c.y() - 4, 8, 8));
        }
    }
    g.restore();
}

QString RampEditor::hint_at(const QPointF& p) const {
    if (held_ >= 0) return {};
    const int near = knot_near(p);
    if (near >= 0) return QString("knot: ISO %1, %2").arg(knots_[near].iso).arg(knots_[near].value, 0, 'f', decimals_);
    const PlotArea now = plot();
    for (const Bar& b : bars_)
        if (std::abs(at(now, b.iso, 0).x() - p.x()) < 6) return QString("ISO %1: %2 frames").arg(b.iso).arg(b.frames);
    return {};
}

void RampEditor::mousePressEvent(QMouseEvent* event) {
    setFocus();
    if (event->button() != Qt::LeftButton || !editable_) return;
    held_ = chosen_ = knot_near(event->position());
    before_drag_ = knots_;
    update();
}

void RampEditor::mouseMoveEvent(QMouseEvent* event) {
    const PlotArea now = plot();
    const double iso = iso_at(now, event->position().x()), value = value_at(now, event->position().y());
    if (held_ < 0) {
        setCursor(editable_ && knot_near(event->position()) >= 0 ? Qt::SizeAllCursor : Qt::ArrowCursor);
        return PlotView::mouseMoveEvent(event);
    }
    // A knot stays between its neighbours, and snaps to thirds of a stop.
    double stop = std::round(3 * std::log2(iso / 100)) / 3;
    const double least = held_ > 0 ? std::log2(knots_[held_ - 1].iso / 100) + 0.33 : first_stop_,
                 most = held_ + 1 < static_cast<int>(knots_.size()) ? std::log2(knots_[held_ + 1].iso / 100) - 0.33
                                                                    : last_stop_;
    stop = std::clamp(stop, least, std::max(least, most));
    if (knots_.size() > 1) knots_[held_].iso = std::round(100 * std::exp2(stop));
    knots_[held_].value = value;
    QToolTip::showText(event->globalPosition().toPoint(),
                       QString("ISO %1: %2").arg(knots_[held_].iso).arg(value, 0, 'f', decimals_), this);
    update();
}

void RampEditor::mouseReleaseEvent(QMouseEvent*) {
    if (held_ < 0) return;
    held_ = -1;
    const bool same = std::equal(knots_.begin(), knots_.end(), before_drag_.begin(), before_drag_.end(),
                                 [](const Knot& a, const Knot& b) { return a.iso == b.iso && a.value == b.value; });
    if (!same) emit edited(knots_);
}

void RampEditor::mouseDoubleClickEvent(QMouseEvent* event) {
    if (!editable_ || knot_near(event->position()) >= 0) return;
    std::vector<Knot> next = knots_;
    // A constant becomes a ramp that starts with the same value.
    const double iso =
        std::round(100 * std::exp2(std::round(3 * std::log2(iso_at(plot(), event->position().x()) / 100)) / 3));
    std::erase_if(next, [&](const Knot& k) { return std::abs(std::log2(k.iso / iso)) < 0.2; });
    next.push_back({iso, value_at(plot(), event->position().y())});
    std::sort(next.begin(), next.end(), [](const Knot& a, const Knot& b) { return a.iso < b.iso; });
    emit edited(next);
}

void RampEditor::keyPressEvent(QKeyEvent* event) {
    if (!editable_ || knots_.empty()) return QWidget::keyPressEvent(event);
    const double step = decimals_ ? std::pow(10.0, -decimals_) * 5 : 1;
    std::vector<Knot> next = knots_;
    switch (event->key()) {
        case Qt::Key_Right:
        case Qt::Key_Left:
            chosen_ =
                std::clamp(chosen_ + (event->key() == Qt::Key_Right ? 1 : -1), 0, static_cast<int>(knots_.size()) - 1);
            return update();
        case Qt::Key_Up:
        case Qt::Key_Down:
            if (chosen_ < 0) return;
            next[chosen_].value =
                std::clamp(next[chosen_].value + (event->key() == Qt::Key_Up ? step : -step), low_limit_, high_limit_);
            emit edited(next);
            return;
        case Qt::Key_Delete:
            if (chosen_ < 0 || knots_.size() < 2) return;
            next.erase(next.begin() + chosen_);
            emit edited(next);
            return;
        default: QWidget::keyPressEvent(event);
    }
}

PlotView::Cells RampEditor::cells() const {
    Cells rows{{"curve", "ISO", title_.toStdString()}};
    const auto add = [&](const char* curve, double iso, double value) {
        rows.push_back({curve, QString::number(iso).toStdString(), QString::number(value).toStdString()});
    };
    for (const Knot& k : knots_) add("knot", k.iso, k.value);
    for (const Knot& k : resolved_) add("resolved", std::round(k.iso), k.value);
    for (const Bar& b : bars_) add("frames", b.iso, b.frames);
    return rows;
}

}  // namespace optrel
