// SPDX-License-Identifier: GPL-3.0-or-later
#include "widgets/picture_marks.h"

#include <QPainterPath>
#include <QPolygonF>
#include <algorithm>
#include <cmath>

#include "theme.h"

namespace optrel {

namespace {

constexpr double near_line = 7, near_handle = 11;  // px of the widget

double distance(const QPointF& place, const QPointF& a, const QPointF& b) {
    const QPointF along = b - a;
    const double length2 = QPointF::dotProduct(along, along);
    const double t = length2 > 0 ? std::clamp(QPointF::dotProduct(place - a, along) / length2, 0.0, 1.0) : 0;
    const QPointF off = place - a - t * along;
    return std::hypot(off.x(), off.y());
}

QPolygonF laid(const std::vector<QPointF>& places, const PictureMarks::Lie& lie) {
    QPolygonF out;
    for (const QPointF& p : places) out << lie.at(p);
    return out;
}

/// Visible on light and dark pictures.
void stroke(QPainter& p, const QPen& pen, double under, const QPolygonF& line) {
    p.setPen(QPen(QColor(255, 255, 255, 200), under));
    p.drawPolyline(line);
    p.setPen(pen);
    p.drawPolyline(line);
}

}  // namespace

void PictureMarks::draw(QPainter& painter, const Lie& lie) const {
    painter.save();
    if (!crop.isEmpty()) draw_crop(painter, lie);
    painter.setRenderHint(QPainter::Antialiasing);
    draw_lines(painter, lie);
    if (!ring.empty()) {
        QPolygonF round = laid(ring, lie);
        round << round.front();
        stroke(painter, QPen(theme::picture_mark, 1.7), 3.5, round);
    }
    for (const QPointF& spot : spots)
        for (const QPen& pen : {QPen(QColor(255, 255, 255, 200), 3.5), QPen(theme::picture_warning, 1.5)}) {
            painter.setPen(pen);
            painter.drawEllipse(lie.at(spot), 7, 7);
        }
    draw_handles(painter, lie);
    painter.restore();
}

void PictureMarks::draw_crop(QPainter& p, const Lie& lie) const {
    const QRectF kept(lie.at(crop.topLeft()), crop.size() * lie.scale);
    QPainterPath outside;
    outside.addRect(lie.picture);
    outside.addRect(kept);
    p.fillPath(outside, QColor(119, 119, 119, 190));
    p.setPen(QPen(Qt::white, 3));
    p.drawRect(kept);
    p.setPen(QPen(theme::picture_mark, 1));
    p.drawRect(kept);
}

void PictureMarks::draw_lines(QPainter& p, const Lie& lie) const {
    for (const Line& m : lines)
        stroke(p, QPen(m.colour, 1.7, m.dashed ? Qt::DashLine : Qt::SolidLine), 3.5,
               laid({m.line.p1(), m.line.p2()}, lie));
}

void PictureMarks::draw_handles(QPainter& p, const Lie& lie) const {
    if (handles.empty()) return;
    QPolygonF outline = laid(handles, lie);
    if (closed) outline << outline.front();
    stroke(p, QPen(theme::picture_mark, 1.7), 3.5, outline);
    for (std::size_t i = 0; i < handles.size(); ++i) {
        const QPointF at = lie.at(handles[i]);
        const bool taken = static_cast<int>(i) == chosen;
        // Open in the centre, so that the target stays visible.
        for (const auto& [colour, width] : {std::pair(QColor(255, 255, 255, 220), 4.0), {theme::picture_mark, 2.0}}) {
            p.setPen(QPen(colour, taken ? width + 1 : width));
            for (const QPointF& d : {QPointF(1, 1), QPointF(1, -1), QPointF(-1, 1), QPointF(-1, -1)})
                p.drawLine(at + 3 * d, at + (taken ? 10 : 8) * d);
        }
    }
}

int PictureMarks::line_at(const QPointF& place, double scale) const {
    int best = -1;
    double least = near_line / scale;
    for (std::size_t i = 0; i < lines.size(); ++i)
        if (const double d = distance(place, lines[i].line.p1(), lines[i].line.p2()); d < least) {
            least = d;
            best = static_cast<int>(i);
        }
    return best;
}

int PictureMarks::handle_at(const QPointF& place, double scale) const {
    int best = -1;
    double least = near_handle / scale;
    for (std::size_t i = 0; i < handles.size(); ++i)
        if (const QPointF off = place - handles[i]; std::hypot(off.x(), off.y()) < least) {
            least = std::hypot(off.x(), off.y());
            best = static_cast<int>(i);
        }
    return best;
}

bool PictureMarks::on_ring(const QPointF& place, double scale) const {
    for (std::size_t i = 0; i < ring.size(); ++i)
        if (distance(place, ring[i], ring[(i + 1) % ring.size()]) < near_line / scale) return true;
    return false;
}

}  // namespace optrel
