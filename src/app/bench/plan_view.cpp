// SPDX-License-Identifier: GPL-3.0-or-later
#include "bench/plan_view.h"

#include <QPainter>

#include "base/choose.h"
#include "theme.h"

namespace optrel {

PlanView::PlanView(QWidget* parent) : QWidget(parent) {
    setMinimumSize(260, 180);
    setAccessibleName("Shot plan on the outline of the picture");
}

void PlanView::show_plan(const ShotPlan& plan, const PictureGeometry& geometry, std::vector<QPointF> covered) {
    plan_ = plan;
    geometry_ = geometry;
    covered_ = std::move(covered);
    why_empty_.clear();
    update();
}

void PlanView::clear(const QString& why) {
    why_empty_ = why;
    update();
}

void PlanView::choose(int shot) {
    chosen_ = shot;
    update();
}

void PlanView::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), theme::surround);
    if (!why_empty_.isEmpty() || geometry_.width <= 0) {
        p.setPen(Qt::white);
        p.drawText(rect().adjusted(30, 0, -30, 0), Qt::AlignCenter | Qt::TextWordWrap, why_empty_);
        return;
    }
    // Margin around the picture, because charts in the corners extend beyond it.
    scale_ = std::min(width() / (1.5 * geometry_.width), height() / (1.5 * geometry_.height));
    origin_ = QPointF(width() / 2.0 - scale_ * geometry_.width / 2, height() / 2.0 - scale_ * geometry_.height / 2);
    const QRectF picture(origin_, QSizeF(scale_ * geometry_.width, scale_ * geometry_.height));
    p.fillRect(picture, theme::paper);
    p.setPen(QPen(theme::ink, 1.5));
    p.drawRect(picture);
    p.setPen(Qt::NoPen);
    p.setBrush(QColor(14, 91, 102, 70));
    for (const QPointF& c : covered_) p.drawEllipse(origin_ + c * scale_, 2.2, 2.2);
    const bool shot = chosen_ >= 0 && chosen_ < static_cast<int>(plan_.shots.size()) && !plan_.shots[chosen_].flat;
    const int strong = shot ? chosen_ : plan_.next;
    for (int i = 0; i < static_cast<int>(plan_.shots.size()); ++i)
        if (i != strong) draw_shot(p, i, false);
    if (strong >= 0) draw_shot(p, strong, true);
    draw_worst(p);
    if (strong < 0) return;
    const PlannedShot& s = plan_.shots[strong];
    label(p, outline_of(s).boundingRect().center(),
          (strong == plan_.next ? "next: " : "") + QString::fromStdString(s.name), theme::mark);
}

QPointF PlanView::place(const Vec2& uv) const { return origin_ + QPointF(uv.x() * scale_, uv.y() * scale_); }

QPolygonF PlanView::outline_of(const PlannedShot& shot) const {
    QPolygonF outline;
    for (const Vec2& uv : shot.outline) outline << place(uv);
    return outline;
}

void PlanView::draw_shot(QPainter& p, int i, bool strong) const {
    const PlannedShot& shot = plan_.shots[i];
    if (shot.flat) return;
    const QPen done(theme::rule, 0.8), to_take(theme::faint_ink, 1.1, Qt::DashLine);
    p.setPen(first_of<QPen>({{strong, QPen(theme::mark, 2.6)}, {shot.done, done}}, to_take));
    p.setBrush(strong ? QBrush(QColor(14, 91, 102, 30)) : Qt::NoBrush);
    p.drawPolygon(outline_of(shot));
}

/// Position of the largest uncertainty.
void PlanView::draw_worst(QPainter& p) const {
    if (!(plan_.sigma_px > 0)) return;
    const QPointF worst = place(plan_.worst_place);
    p.setPen(QPen(theme::serious, 2));
    p.setBrush(Qt::NoBrush);
    p.drawEllipse(worst, 7, 7);
    label(p, worst + QPointF(worst.x() > width() / 2 ? -86 : 86, 0),
          QString("largest uncertainty %1 px").arg(plan_.sigma_px, 0, 'g', 2), theme::serious);
}

/// A text with its own background, moved to stay inside the view.
void PlanView::label(QPainter& p, const QPointF& at, const QString& text, const QColor& colour) const {
    p.setFont(theme::text_font(8.5));
    QRectF box = p.fontMetrics().boundingRect(text).adjusted(-4, -2, 4, 2);
    box.moveCenter(at);
    box.moveLeft(std::clamp(box.left(), 2.0, std::max(2.0, width() - box.width() - 2)));
    box.moveTop(std::clamp(box.top(), 2.0, std::max(2.0, height() - box.height() - 2)));
    p.fillRect(box, theme::tag_paper());
    p.setPen(colour);
    p.drawText(box, Qt::AlignCenter, text);
}

}  // namespace optrel
