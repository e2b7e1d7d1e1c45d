// SPDX-License-Identifier: GPL-3.0-or-later
// Painting of the comparison.
#include <QPainter>
#include <algorithm>
#include <cmath>

#include "base/figure_text.h"
#include "theme.h"
#include "widgets/compare_view.h"

namespace optrel {

namespace {

constexpr int exaggeration = 8;

/// Difference (after minus before) around mid-grey, amplified; transparent where either is empty.
QImage difference_of(const QImage& before, const QImage& after) {
    QImage out(after.size(), QImage::Format_ARGB32_Premultiplied);
    for (int row = 0; row < out.height(); ++row) {
        const auto *a = reinterpret_cast<const QRgb*>(before.constScanLine(row)),
                   *b = reinterpret_cast<const QRgb*>(after.constScanLine(row));
        auto* to = reinterpret_cast<QRgb*>(out.scanLine(row));
        const auto far = [](int x, int y) { return std::clamp(128 + exaggeration * (y - x), 0, 255); };
        for (int i = 0; i < out.width(); ++i)
            to[i] = qAlpha(a[i]) && qAlpha(b[i]) ? qRgb(far(qRed(a[i]), qRed(b[i])), far(qGreen(a[i]), qGreen(b[i])),
                                                        far(qBlue(a[i]), qBlue(b[i])))
                                                 : qRgba(0, 0, 0, 0);
    }
    return out;
}

}  // namespace

const QImage& CompareView::image(Pictures& pictures, Side side) {
    if (side == Side::before) return pictures.before;
    if (side == Side::after) return pictures.after;
    if (pictures.difference.isNull() && pictures.before.size() == pictures.after.size())
        pictures.difference = difference_of(pictures.before, pictures.after);
    return pictures.difference;
}

void CompareView::draw(QPainter& p, const QRectF& pane, const QRectF& clip, Side side) {
    const QRectF to = picture_in(pane);
    p.save();
    p.setClipRect(clip.intersected(to));
    // Empty areas are transparent.
    p.fillRect(to, theme::bench);
    p.fillRect(to, QBrush(theme::faint_ink, Qt::BDiagPattern));
    p.setRenderHint(QPainter::SmoothPixmapTransform, scale() < 2);
    p.drawImage(to, image(whole_, side));
    if (side == Side::after && !whole_.marks.isNull()) p.drawImage(to, whole_.marks);
    if (!part_.after.isNull()) {
        const double s = scale() / devicePixelRatioF();
        const QRectF place(to.topLeft() + part_place_.topLeft() * s, part_place_.size() * s);
        // Empty areas of the part are those of the whole, with more detail.
        p.setRenderHint(QPainter::SmoothPixmapTransform, scale() < 1);
        p.drawImage(place, image(part_, side));
        if (side == Side::after && !part_.marks.isNull()) p.drawImage(place, part_.marks);
    }
    p.restore();
}

void CompareView::draw_grid(QPainter& p, const QRectF& pane) const {
    const QRectF to = picture_in(pane);
    const double s = scale() / devicePixelRatioF(), step = grid_ * s;
    if (step < 4) return;
    p.save();
    p.setClipRect(pane.intersected(to));
    // Starts at the centre, so that the optical axis is on a crossing.
    p.setPen(QPen(QColor(255, 255, 255, 120), 1));
    for (const double nudge : {1.0, 0.0}) {
        for (double x = std::fmod(to.width() / 2, step); x <= to.width(); x += step)
            p.drawLine(QPointF(to.left() + x + nudge, to.top()), QPointF(to.left() + x + nudge, to.bottom()));
        for (double y = std::fmod(to.height() / 2, step); y <= to.height(); y += step)
            p.drawLine(QPointF(to.left(), to.top() + y + nudge), QPointF(to.right(), to.top() + y + nudge));
        p.setPen(QPen(QColor(20, 90, 105, 170), 1));
    }
    p.restore();
}

/// Area where the picture after the correction is visible.
QRectF CompareView::after_part() const {
    if (mode_ == Mode::split) return QRectF(split_x(), 0, width() - split_x(), height());
    if (mode_ == Mode::split_down) return QRectF(0, split_ * height(), width(), (1 - split_) * height());
    return rect();
}

void CompareView::draw_marks(QPainter& p, const QRectF& pane) const {
    p.save();
    p.setClipRect(pane.intersected(after_part()));
    marks_.draw(p, {picture_in(pane), spread()});
    p.restore();
}

void CompareView::draw_marking(QPainter& p) const {
    if (marking_ == Marking::nothing || press_ == marked_to_) return;
    p.setBrush(Qt::NoBrush);
    for (const QPen& pen : {QPen(Qt::white, 3), QPen(theme::picture_mark, 1.5, Qt::DashLine)}) {
        p.setPen(pen);
        if (marking_ == Marking::area)
            p.drawRect(QRectF(press_, marked_to_).normalized());
        else
            p.drawLine(press_, marked_to_);
    }
}

void CompareView::draw_tags(QPainter& p) const {
    const auto tag = [&](const QString& text, const QRectF& in, bool left) {
        QFont f = theme::text_font(9);
        f.setBold(true);
        p.setFont(f);
        const double wide = QFontMetricsF(f).horizontalAdvance(text) + 20;
        const QRectF box(left ? in.left() + 8 : in.right() - wide - 8, 8, wide, 20);
        p.fillRect(box, theme::tag_paper());
        p.setPen(theme::ink);
        p.drawText(box, Qt::AlignCenter, text);
    };
    if (mode_ == Mode::difference) return tag(QString("difference, %1 times").arg(exaggeration), rect(), true);
    if (mode_ == Mode::beside) {
        tag("before", pane(0), true);
        tag("after", pane(1), true);
        return;
    }
    if (mode_ == Mode::split_down) {
        tag("before, above", rect(), true);
        tag("after, below", rect(), false);
        return;
    }
    if (mode_ != Mode::after) tag("before", rect(), true);
    if (mode_ != Mode::before) tag("after", rect(), false);
}

void CompareView::draw_split(QPainter& p) const {
    const bool down = mode_ == Mode::split_down;
    const double at = down ? split_ * height() : split_x();
    const QLineF line = down ? QLineF(0, at, width(), at) : QLineF(at, 0, at, height());
    p.setPen(QPen(Qt::white, 3));
    p.drawLine(line);
    p.setPen(QPen(theme::picture_mark, 1));
    p.drawLine(line);
    p.setBrush(Qt::white);
    p.setPen(QPen(theme::picture_mark, 1.5));
    p.drawRect(down ? QRectF(width() / 2.0 - 16, at - 5, 32, 10) : QRectF(at - 5, height() / 2.0 - 16, 10, 32));
    p.setBrush(Qt::NoBrush);
}

/// Overview of the visible area.
void CompareView::draw_overview(QPainter& p) const {
    const QRectF seen = visible();
    if (whole_.after.isNull() || seen.width() > 0.95 * size_.width()) return;
    const double wide = size_.width() > size_.height() ? 130 : 130 * size_.width() / size_.height();
    const QRectF box(width() - wide - 10, height() - wide * size_.height() / size_.width() - 10, wide,
                     wide * size_.height() / size_.width());
    p.setRenderHint(QPainter::SmoothPixmapTransform);
    p.drawImage(box, mode_ == Mode::before ? whole_.before : whole_.after);
    p.setPen(QPen(Qt::white, 1));
    p.drawRect(box);
    const double s = wide / size_.width();
    p.setPen(QPen(Qt::white, 3));
    const QRectF here(box.topLeft() + seen.topLeft() * s, seen.size() * s);
    p.drawRect(here);
    p.setPen(QPen(theme::picture_mark, 1.5));
    p.drawRect(here);
}

void CompareView::draw_difference_scale(QPainter& p) const {
    const QRectF box(12, height() - 44.0, 200, 12);
    QLinearGradient grey(box.topLeft(), box.topRight());
    grey.setColorAt(0, Qt::black);
    grey.setColorAt(1, Qt::white);
    p.fillRect(box.adjusted(-6, -6, 6, 30), theme::tag_paper());
    p.fillRect(box, grey);
    p.setPen(theme::ink);
    p.setFont(theme::figure_font(8.5));
    const double most = 100.0 * 128 / exaggeration / 255;
    const QRectF under = box.translated(0, 13).adjusted(-2, 0, 2, 4);
    p.drawText(under, Qt::AlignLeft, "−" + q(figure_text(figures::light, most)));
    p.drawText(under, Qt::AlignHCenter, "0");
    p.drawText(under, Qt::AlignRight, "+" + q(figure_text(figures::light, most)));
}

void CompareView::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.fillRect(rect(), theme::surround);
    if (whole_.after.isNull()) {
        p.setPen(Qt::white);
        p.drawText(rect().adjusted(40, 0, -40, 0), Qt::AlignCenter | Qt::TextWordWrap, why_empty_);
        if (hasFocus()) p.drawRect(rect().adjusted(1, 1, -2, -2));
        return;
    }
    const double x = split_x(), y = split_ * height();
    switch (mode_) {
        case Mode::before: draw(p, rect(), rect(), Side::before); break;
        case Mode::after: draw(p, rect(), rect(), Side::after); break;
        case Mode::difference: draw(p, rect(), rect(), Side::difference); break;
        case Mode::split:
            draw(p, rect(), QRectF(0, 0, x, height()), Side::before);
            draw(p, rect(), QRectF(x, 0, width() - x, height()), Side::after);
            break;
        case Mode::split_down:
            draw(p, rect(), QRectF(0, 0, width(), y), Side::before);
            draw(p, rect(), QRectF(0, y, width(), height() - y), Side::after);
            break;
        case Mode::beside:
            draw(p, pane(0), pane(0), Side::before);
            draw(p, pane(1), pane(1), Side::after);
            break;
    }
    for (int k = 0; k < (mode_ == Mode::beside ? 2 : 1); ++k) {
        if (grid_ > 0) draw_grid(p, pane(k));
        if (mode_ == Mode::before || (mode_ == Mode::beside && k == 0)) continue;
        draw_marks(p, pane(k));
    }
    draw_marking(p);
    draw_tags(p);
    if (mode_ == Mode::split || mode_ == Mode::split_down) draw_split(p);
    if (mode_ == Mode::difference) draw_difference_scale(p);
    draw_overview(p);
    if (hasFocus()) {
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(theme::picture_mark, 2));
        p.drawRect(rect().adjusted(1, 1, -1, -1));
    }
}

}  // namespace optrel
