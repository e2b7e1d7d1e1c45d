#include "bench/plan_view.h"

#include <QPainter>

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
    // Room about the picture, since charts in the corners reach beyond it.
    const double s = std::min(width() / (1.5 * geometry_.width), height() / (1.5 * geometry_.height));
    const QPointF origin(width() / 2.0 - s * geometry_.width / 2, height() / 2.0 - s * geometry_.height / 2);
    const auto place = [&](const Vec2& uv) { return origin + QPointF(uv.x() * s, uv.y() * s); };
    const QRectF picture(origin, QSizeF(s * geometry_.width, s * geometry_.height));
    p.fillRect(picture, theme::paper);
    p.setPen(QPen(theme::ink, 1.5));
    p.drawRect(picture);
    p.setPen(Qt::NoPen);
    p.setBrush(QColor(14, 91, 102, 70));
    for (const QPointF& c : covered_) p.drawEllipse(origin + c * s, 2.2, 2.2);
    const int strong = chosen_ >= 0 && chosen_ < static_cast<int>(plan_.shots.size()) && !plan_.shots[chosen_].flat
                           ? chosen_
                           : plan_.next;
    p.setBrush(Qt::NoBrush);
    const auto draw = [&](int i) {
        const PlannedShot& shot = plan_.shots[i];
        if (shot.flat) return;
        QPolygonF outline;
        for (const Vec2& uv : shot.outline) outline << place(uv);
        const bool is_strong = i == strong;
        p.setPen(is_strong ? QPen(theme::mark, 2.6)
                           : QPen(shot.done ? theme::rule : theme::faint_ink, shot.done ? 0.8 : 1.1,
                                  shot.done ? Qt::SolidLine : Qt::DashLine));
        p.setBrush(is_strong ? QBrush(QColor(14, 91, 102, 30)) : Qt::NoBrush);
        p.drawPolygon(outline);
    };
    for (int i = 0; i < static_cast<int>(plan_.shots.size()); ++i)
        if (i != strong) draw(i);
    if (strong >= 0) draw(strong);
    const auto label = [&](const QPointF& at, const QString& text, const QColor& colour) {
        p.setFont(theme::text_font(8.5));
        QRectF box = p.fontMetrics().boundingRect(text).adjusted(-4, -2, 4, 2);
        box.moveCenter(at);
        box.moveLeft(std::clamp(box.left(), 2.0, std::max(2.0, width() - box.width() - 2)));
        box.moveTop(std::clamp(box.top(), 2.0, std::max(2.0, height() - box.height() - 2)));
        p.fillRect(box, QColor(250, 250, 247, 225));
        p.setPen(colour);
        p.drawText(box, Qt::AlignCenter, text);
    };
    if (plan_.sigma_px > 0) {
        const QPointF worst = place(plan_.worst_place);
        p.setPen(QPen(theme::serious, 2));
        p.setBrush(Qt::NoBrush);
        p.drawEllipse(worst, 7, 7);
        label(worst + QPointF(worst.x() > width() / 2 ? -86 : 86, 0),
              QString("largest uncertainty %1 px").arg(plan_.sigma_px, 0, 'g', 2), theme::serious);
    }
    if (strong >= 0) {
        QPolygonF outline;
        for (const Vec2& uv : plan_.shots[strong].outline) outline << place(uv);
        label(outline.boundingRect().center(),
              (strong == plan_.next ? "next: " : "") + QString::fromStdString(plan_.shots[strong].name), theme::mark);
    }
}

}  // namespace optrel
