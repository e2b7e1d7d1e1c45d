// SPDX-License-Identifier: GPL-3.0-or-later
#include "widgets/plot_view.h"

#include <QApplication>
#include <QBuffer>
#include <QClipboard>
#include <QContextMenuEvent>
#include <QFileDialog>
#include <QMenu>
#include <QMouseEvent>
#include <QPainter>
#include <QSvgGenerator>
#include <QToolTip>
#include <cmath>

#include "base/csv.h"
#include "base/error.h"
#include "base/output.h"
#include "theme.h"
#include "window_words.h"

namespace optrel {
namespace {

constexpr double title_height = 15, figure_height = 14, plot_gap = 4;

QFont tick_font() { return theme::figure_font(7.5); }
QFont titles() { return theme::text_font(8); }

double width_of(const QFont& font, const QString& text) { return QFontMetricsF(font).horizontalAdvance(text); }

}  // namespace

QColor plot_grid() { return theme::rail; }

PlotScale PlotScale::of(const QString& title, const RoundRange& range) {
    PlotScale out{title, range.low, range.high, {}};
    for (int i = 0; i < range.count(); ++i)
        out.ticks.push_back({range.tick(i), QString::fromStdString(tick_text(range.tick(i), range.step))});
    return out;
}

PlotView::PlotView(const QString& accessible_name, QWidget* parent) : QWidget(parent) {
    setAccessibleName(accessible_name);
    setMinimumSize(160, 90);
    setMouseTracking(true);
}

QString PlotView::empty_text() const { return accessibleName() + ": nothing measured yet"; }

void PlotView::set_head(const QString& left, const QString& right) {
    head_left_ = left;
    head_right_ = right;
    update();
}

PlotArea PlotView::plot() const {
    const QRectF inside = QRectF(rect()).adjusted(plot_gap, head_kept_ ? 22 : 8, -right_room(), -plot_gap);
    const double below = figure_height + title_height + 3;
    PlotArea out;
    std::tie(out.x, out.y) = scales(inside.adjusted(46, 0, 0, -below).size());
    double widest = 0;
    for (const PlotScale::Tick& t : out.y.ticks) widest = std::max(widest, width_of(tick_font(), t.text));
    // The first and last label of the horizontal axis may extend beyond it.
    double beyond = 0;
    if (!out.x.ticks.empty() && out.x.ticks.back().at >= out.x.high)
        beyond = std::max(0.0, width_of(tick_font(), out.x.ticks.back().text) / 2 + 2 - right_room());
    out.box = inside.adjusted(title_height + widest + plot_gap, 0, -beyond, -below);
    return out;
}

void PlotView::paint_axes(QPainter& p, const PlotArea& l) const {
    p.setFont(tick_font());
    double last = -INFINITY;  // position of the previous label; an axis may be inverted
    for (const PlotScale::Tick& t : l.y.ticks) {
        const double y = l.box.bottom() - l.y.share(t.at) * l.box.height();
        p.setPen(plot_grid());
        p.drawLine(QPointF(l.box.left(), y), QPointF(l.box.right(), y));
        if (std::abs(y - last) < figure_height - 2) continue;  // no space for another label
        last = y;
        p.setPen(theme::faint_ink);
        p.drawText(QRectF(0, y - figure_height / 2, l.box.left() - plot_gap, figure_height),
                   Qt::AlignRight | Qt::AlignVCenter, t.text);
    }
    double free_from = -INFINITY;
    for (const PlotScale::Tick& t : l.x.ticks) {
        const double x = l.box.left() + l.x.share(t.at) * l.box.width(), half = width_of(tick_font(), t.text) / 2 + 3;
        p.setPen(theme::faint_ink);
        p.drawLine(QPointF(x, l.box.bottom()), QPointF(x, l.box.bottom() + 2.5));
        if (x - half < free_from) continue;
        free_from = x + half;
        p.drawText(QRectF(x - half - 20, l.box.bottom() + 4, 2 * half + 40, figure_height), Qt::AlignCenter, t.text);
    }
    p.setPen(theme::faint_ink);
    p.drawLine(l.box.bottomLeft(), l.box.bottomRight());
    p.drawLine(l.box.bottomLeft(), l.box.topLeft());
    p.setFont(titles());
    // A long title may use the whole width.
    const double room = std::max(l.box.width(), width_of(titles(), l.x.title) + 4);
    const double left = std::clamp(l.box.center().x() - room / 2, 2.0, std::max(2.0, width() - room - 2));
    p.drawText(QRectF(left, l.box.bottom() + figure_height + 3, room, title_height), Qt::AlignCenter, l.x.title);
    p.save();
    p.translate(plot_gap + title_height / 2, l.box.center().y());
    p.rotate(-90);
    p.drawText(QRectF(-l.box.height(), -title_height / 2, 2 * l.box.height(), title_height), Qt::AlignCenter,
               l.y.title);
    p.restore();
}

void PlotView::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), theme::paper);
    p.setPen(hasFocus() ? QPen(theme::mark, 1.5) : QPen(theme::rule));
    p.drawRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5));
    p.setFont(titles());
    p.setPen(theme::faint_ink);
    const QRectF head(6, 3, width() - 12, 16);
    p.drawText(head, Qt::AlignLeft | Qt::AlignVCenter, head_left_);
    p.drawText(head, Qt::AlignRight | Qt::AlignVCenter, head_right_);
    // Axes without data would show meaningless numbers.
    if (empty()) {
        p.drawText(QRectF(rect()).adjusted(8, head_kept_ ? 22 : 8, -8, -8), Qt::AlignCenter | Qt::TextWordWrap,
                   empty_text());
        return;
    }
    const PlotArea now = plot();
    paint_axes(p, now);
    paint_data(p, now);
}

void PlotView::mouseMoveEvent(QMouseEvent* event) {
    QToolTip::showText(event->globalPosition().toPoint(), empty() ? QString() : hint_at(event->position()), this);
}

QString PlotView::as_csv() const { return QString::fromStdString(write_csv(cells(), "\n")); }

bool PlotView::save_svg(const QString& path) {
    QByteArray bytes;
    QBuffer buffer(&bytes);
    buffer.open(QIODevice::WriteOnly);
    QSvgGenerator svg;
    svg.setOutputDevice(&buffer);
    svg.setDescription("Optrel");
    svg.setSize(size());
    svg.setViewBox(rect());
    svg.setTitle(accessibleName());
    QPainter painter;
    if (!painter.begin(&svg)) return false;
    render(&painter);
    if (!painter.end()) return false;
    try {
        write_output(path.toStdString(), svg_output(), Existing::replace_ours, bytes.toStdString());
        return true;
    } catch (const Error& error) {
        QToolTip::showText(mapToGlobal(rect().center()), q(error.what()), this);
        return false;
    }
}

void PlotView::contextMenuEvent(QContextMenuEvent* event) {
    QMenu menu;
    menu.addAction("Copy the values as CSV", this, [this] { QApplication::clipboard()->setText(as_csv()); });
    menu.addAction("Save as SVG…", this, [this] {
        const QString path =
            QFileDialog::getSaveFileName(this, "Save the plot", accessibleName() + ".svg", "SVG (*.svg)");
        if (!path.isEmpty()) save_svg(path);
    });
    for (QAction* action : menu.actions()) action->setEnabled(!empty());
    menu.exec(event->globalPos());
}

}  // namespace optrel
