// SPDX-License-Identifier: GPL-3.0-or-later
#include "widgets/patch_view.h"

#include <QHelpEvent>
#include <QPainter>
#include <QPainterPath>
#include <QToolTip>
#include <algorithm>
#include <cmath>

#include "base/figure_text.h"
#include "frames/colour_space.h"
#include "render/colour.h"
#include "theme.h"
#include "window_words.h"

namespace optrel {
namespace {

constexpr int words_height = 36, marked_patches = 3;

QColor shown(const cv::Vec3d& xyz) {
    const cv::Vec3d rgb = xyz_d50_to_srgb() * xyz;
    const auto value = [&](int c) {
        return static_cast<int>(std::lround(255 * encode_light(ColourSpace::srgb, std::clamp(rgb[c], 0.0, 1.0))));
    };
    return {value(0), value(1), value(2)};
}

/// Patches that differ most, worst first.
std::vector<const SplitPatch*> worst_of(const SplitChart& chart) {
    std::vector<const SplitPatch*> out;
    for (const SplitPatch& p : chart.patches)
        if (p.used) out.push_back(&p);
    std::sort(out.begin(), out.end(), [](const SplitPatch* a, const SplitPatch* b) { return a->de2000 > b->de2000; });
    if (out.size() > marked_patches) out.resize(marked_patches);
    return out;
}

}  // namespace

PatchView::PatchView(const QString& accessible_name, QWidget* parent) : QWidget(parent) {
    setAccessibleName(accessible_name);
    setMinimumSize(320, 220);
}

void PatchView::show_charts(std::vector<SplitChart> charts) {
    if (charts.size() > 4) charts.resize(4);
    charts_ = std::move(charts);
    why_empty_.clear();
    QStringList words;
    for (const SplitChart& chart : charts_) {
        words << chart.title + ": " + chart.figures;
        for (const SplitPatch* p : worst_of(chart))
            words << p->id + " " + q(number_text(figures::colour_difference, p->de2000));
    }
    setAccessibleDescription(words.join("; "));
    update();
}

void PatchView::clear(const QString& why) {
    charts_.clear();
    why_empty_ = why;
    setAccessibleDescription(why);
    update();
}

QRectF PatchView::room_of(int chart) const {
    const int count = chart_count(), across = count > 1 ? 2 : 1, down = count > 2 ? 2 : 1;
    const double w = width() / double(across), h = height() / double(down);
    return QRectF((chart % across) * w, (chart / across) * h, w, h).adjusted(8, 4, -8, -6);
}

std::vector<PatchView::Cell> PatchView::cells_of(int chart) const {
    const SplitChart& c = charts_[static_cast<std::size_t>(chart)];
    const QRectF room = room_of(chart).adjusted(0, words_height, 0, 0);
    const double side = std::max(2.0, std::min(room.width() / c.columns, room.height() / c.rows));
    std::vector<Cell> out;
    for (const SplitPatch& p : c.patches)
        out.push_back({QRectF(room.left() + p.column * side, room.top() + p.row * side, side, side)
                           .adjusted(side * 0.07, side * 0.07, -side * 0.07, -side * 0.07),
                       &p});
    return out;
}

void PatchView::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), theme::surround);
    if (charts_.empty()) {
        p.setPen(Qt::white);
        p.drawText(rect().adjusted(30, 0, -30, 0), Qt::AlignCenter | Qt::TextWordWrap, why_empty_);
        return;
    }
    for (int i = 0; i < chart_count(); ++i) draw_chart(p, i);
}

void PatchView::draw_chart(QPainter& p, int chart) const {
    const SplitChart& c = charts_[static_cast<std::size_t>(chart)];
    const QRectF room = room_of(chart);
    p.setPen(Qt::white);
    p.setFont(theme::text_font(9.5));
    const auto line = [&](int top, const QString& text) {
        p.drawText(QRectF(room.left(), room.top() + top, room.width(), 17), Qt::AlignLeft | Qt::AlignVCenter,
                   p.fontMetrics().elidedText(text, Qt::ElideRight, static_cast<int>(room.width())));
    };
    line(0, c.title);
    p.setFont(theme::text_font(8.5));
    line(16, c.figures);
    const std::vector<const SplitPatch*> worst = worst_of(c);
    for (const Cell& cell : cells_of(chart)) {
        if (!cell.patch->used) {
            p.setPen(QPen(Qt::white, 1));
            p.drawLine(cell.place.topLeft(), cell.place.bottomRight());
            continue;
        }
        p.fillRect(cell.place, shown(cell.patch->rendered));
        QPainterPath corner;
        corner.addPolygon(QPolygonF({cell.place.topLeft(), cell.place.topRight(), cell.place.bottomLeft()}));
        p.fillPath(corner, shown(cell.patch->wanted));
        if (std::find(worst.begin(), worst.end(), cell.patch) == worst.end()) continue;
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(Qt::black, 3));
        p.drawRect(cell.place);
        p.setPen(QPen(Qt::white, 1.4));
        p.drawRect(cell.place);
        const QString text = q(number_text(figures::lab_difference, cell.patch->de2000));
        QRectF box = QRectF(p.fontMetrics().boundingRect(text)).adjusted(-2, 0, 2, 0);
        box.moveCenter(cell.place.center());
        p.fillRect(box, QColor(20, 20, 20, 200));
        p.drawText(box, Qt::AlignCenter, text);
    }
}

bool PatchView::event(QEvent* event) {
    if (event->type() != QEvent::ToolTip) return QWidget::event(event);
    const auto* help = static_cast<QHelpEvent*>(event);
    for (int i = 0; i < chart_count(); ++i)
        for (const Cell& cell : cells_of(i))
            if (cell.place.contains(help->pos())) {
                QToolTip::showText(help->globalPos(),
                                   cell.patch->used ? cell.patch->id + ": dE2000 " +
                                                          q(number_text(figures::colour_difference, cell.patch->de2000))
                                                    : cell.patch->id + " was left out when the chart was measured",
                                   this);
                return true;
            }
    QToolTip::hideText();
    return true;
}

}  // namespace optrel
