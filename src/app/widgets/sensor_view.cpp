// SPDX-License-Identifier: GPL-3.0-or-later
#include "widgets/sensor_view.h"

#include <QHelpEvent>
#include <QPainter>
#include <QToolTip>
#include <algorithm>
#include <cmath>
#include <functional>

#include "base/figure_text.h"
#include "base/words.h"
#include "theme.h"
#include "window_words.h"

namespace optrel {
namespace {

constexpr double legend_height = 24, margin = 8, near_px = 7;
/// Share of the light that black and white of the picture beneath stand for.
constexpr float shown_share = 0.06f;

QColor colour_of(DefectKind kind) {
    switch (kind) {
        case DefectKind::hot: return theme::serious;
        case DefectKind::unstable: return theme::channel_blue;
        case DefectKind::dead: break;
    }
    return theme::ink;
}

/// A dot, a triangle or a cross: kinds differ without colour too.
void paint_mark(QPainter& painter, DefectKind kind, const QPointF& at) {
    constexpr double r = 3.5;
    painter.setPen(QPen(colour_of(kind), 1.6));
    painter.setBrush(Qt::NoBrush);
    if (kind == DefectKind::hot) {
        painter.setBrush(colour_of(kind));
        painter.setPen(Qt::NoPen);
        painter.drawEllipse(at, 2.6, 2.6);
    } else if (kind == DefectKind::unstable) {
        painter.drawPolygon(QPolygonF({at + QPointF(0, -r), at + QPointF(r, r), at + QPointF(-r, r)}));
    } else {
        painter.drawLine(at + QPointF(-r, -r), at + QPointF(r, r));
        painter.drawLine(at + QPointF(-r, r), at + QPointF(r, -r));
    }
}

QString unit_of(bool in_light) { return in_light ? " %" : " counts"; }

QString text_of(const DefectPixel& p) {
    const QString place = QString("row %1, column %2").arg(p.row).arg(p.column);
    if (p.kind == DefectKind::dead)
        return QString("dead, %1: %2 of its neighbours' light")
            .arg(place, q(figure_text(figures::share, 100 + p.strength)));
    const double most = p.excess.empty() ? 0 : *std::max_element(p.excess.begin(), p.excess.end());
    return p.kind == DefectKind::hot
               ? QString("hot, %1: %2").arg(place, q(figure_text(figures::whole_counts, most)))
               : QString("unstable, %1: ± %2").arg(place, q(figure_text(figures::whole_counts, p.strength)));
}

}  // namespace

SensorView::SensorView(QWidget* parent) : QWidget(parent) {
    setMinimumSize(240, 180);
    setAccessibleName("Defects on the sensor");
}

void SensorView::show_map(const DefectMap& map, const cv::Mat1f& evenness) {
    map_ = map;
    text_.clear();
    flat_ = QImage();
    if (!evenness.empty()) {
        flat_ = QImage(evenness.cols, evenness.rows, QImage::Format_Grayscale8);
        for (int y = 0; y < evenness.rows; ++y) {
            uchar* line = flat_.scanLine(y);
            for (int x = 0; x < evenness.cols; ++x)
                line[x] = cv::saturate_cast<uchar>(160 + 95 * evenness(y, x) / shown_share);
        }
    }
    update();
}

void SensorView::clear(const QString& text) {
    map_ = {};
    flat_ = QImage();
    text_ = text;
    update();
}

QRectF SensorView::area() const {
    const double scale = std::min((width() - 2 * margin) / std::max(1, map_.width),
                                  (height() - 2 * margin - legend_height) / std::max(1, map_.height));
    const QSizeF size(map_.width * scale, map_.height * scale);
    return {QPointF((width() - size.width()) / 2, margin), size};
}

QPointF SensorView::place_of(double u, double v) const {
    const QRectF a = area();
    return {a.left() + u / std::max(1, map_.width) * a.width(), a.top() + v / std::max(1, map_.height) * a.height()};
}

void SensorView::paint_marks(QPainter& painter) const {
    for (const DefectLine& l : map_.lines) {
        painter.setPen(QPen(theme::warning, 1.6));
        painter.drawLine(l.is_row ? QLineF(place_of(l.first, l.index), place_of(l.last + 1, l.index))
                                  : QLineF(place_of(l.index, l.first), place_of(l.index, l.last + 1)));
    }
    painter.setBrush(Qt::NoBrush);
    const double scale = area().width() / std::max(1, map_.width);
    for (const DustSpot& d : map_.dust) {
        painter.setPen(QPen(theme::mark, 1.4, Qt::DashLine));
        const double radius = std::max(5.0, 2 * d.radius_px * scale);
        painter.drawEllipse(place_of(d.place.x(), d.place.y()), radius, radius);
    }
    for (const DefectPixel& p : map_.pixels) paint_mark(painter, p.kind, place_of(p.column + 0.5, p.row + 0.5));
}

void SensorView::paint_legend(QPainter& painter) const {
    double x = margin;
    const double y = area().bottom() + 6 + legend_height / 2;
    const auto put = [&](const QString& text, const std::function<void(const QPointF&)>& mark) {
        mark({x + 6, y});
        painter.setPen(theme::ink);
        painter.drawText(QPointF(x + 16, y + painter.fontMetrics().ascent() / 2.0 - 1), text);
        x += 34 + painter.fontMetrics().horizontalAdvance(text);
    };
    for (const DefectKind kind : {DefectKind::hot, DefectKind::unstable, DefectKind::dead})
        put(QString("%1 %2").arg(map_.count(kind)).arg(to_string(kind)),
            [&](const QPointF& at) { paint_mark(painter, kind, at); });
    put(q(counted(static_cast<int>(map_.lines.size()), "line", "lines")), [&](const QPointF& at) {
        painter.setPen(QPen(theme::warning, 1.6));
        painter.drawLine(at + QPointF(0, -6), at + QPointF(0, 6));
    });
    put(q(counted(static_cast<int>(map_.dust.size()), "dust spot", "dust spots")), [&](const QPointF& at) {
        painter.setPen(QPen(theme::mark, 1.4, Qt::DashLine));
        painter.setBrush(Qt::NoBrush);
        painter.drawEllipse(at, 5, 5);
    });
}

void SensorView::paintEvent(QPaintEvent*) {
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    painter.fillRect(rect(), theme::paper);
    if (!text_.isEmpty() || map_.width == 0) {
        painter.setPen(theme::faint_ink);
        painter.drawText(QRectF(rect()).adjusted(24, 24, -24, -24), Qt::AlignCenter | Qt::TextWordWrap, text_);
        return;
    }
    const QRectF a = area();
    if (flat_.isNull())
        painter.fillRect(a, theme::paper);
    else
        painter.drawImage(a, flat_);
    painter.setPen(theme::rule);
    painter.setBrush(Qt::NoBrush);
    painter.drawRect(a);
    paint_marks(painter);
    paint_legend(painter);
}

QString SensorView::hint_at(const QPointF& at) const {
    QString best;
    double nearest = near_px;
    const auto offer = [&](double away, const QString& text) {
        if (away >= nearest) return;
        nearest = away;
        best = text;
    };
    for (const DefectPixel& p : map_.pixels)
        offer(QLineF(at, place_of(p.column + 0.5, p.row + 0.5)).length(), text_of(p));
    for (const DustSpot& d : map_.dust)
        offer(QLineF(at, place_of(d.place.x(), d.place.y())).length(),
              QString("dust at %1, %2 px: takes %3 of the light, radius %4")
                  .arg(std::lround(d.place.x()))
                  .arg(std::lround(d.place.y()))
                  .arg(q(figure_text(figures::light, d.depth_percent, d.sigma_percent)),
                       q(figure_text(figures::place, d.radius_px))));
    for (const DefectLine& l : map_.lines) {
        const QPointF first = l.is_row ? place_of(l.first, l.index) : place_of(l.index, l.first),
                      last = l.is_row ? place_of(l.last + 1, l.index) : place_of(l.index, l.last + 1);
        const bool along =
            l.is_row ? at.x() >= first.x() && at.x() <= last.x() : at.y() >= first.y() && at.y() <= last.y();
        if (along)
            offer(l.is_row ? std::abs(at.y() - first.y()) : std::abs(at.x() - first.x()),
                  QString("%1 %2, from %3 to %4: %5%6")
                      .arg(l.is_row ? "row" : "column")
                      .arg(l.index)
                      .arg(l.first)
                      .arg(l.last)
                      .arg(l.strength, 0, 'g', 3)
                      .arg(unit_of(l.in_light)));
    }
    return best;
}

bool SensorView::event(QEvent* event) {
    if (event->type() != QEvent::ToolTip) return QWidget::event(event);
    const auto* help = static_cast<QHelpEvent*>(event);
    QToolTip::showText(help->globalPos(), hint_at(help->pos()), this);
    return true;
}

}  // namespace optrel
