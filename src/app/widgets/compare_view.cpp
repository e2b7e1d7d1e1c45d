// SPDX-License-Identifier: GPL-3.0-or-later
#include "widgets/compare_view.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <algorithm>
#include <cmath>

#include "theme.h"

namespace optrel {

namespace {

constexpr double margin = 8, least_zoom = 0.25, most_zoom = 16;
constexpr int exaggeration = 8;

/// After minus before about mid-grey, exaggerated; transparent where either is empty.
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

CompareView::CompareView(QWidget* parent)
    : QWidget(parent), why_empty_("Choose a frame in the table to see it before and after.") {
    setMinimumSize(320, 220);
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setAccessibleName("Picture before and after");
}

void CompareView::set_size(const QSizeF& picture) {
    whole_ = part_ = {};
    if (picture != size_) {
        zoom_ = 0;
        centre_ = {0.5, 0.5};
    }
    size_ = picture;
    changed();
}

void CompareView::set_whole(const QImage& before, const QImage& after) {
    whole_ = {before, after, {}};
    update();
}

void CompareView::set_part(const QRectF& place, const QImage& before, const QImage& after) {
    part_place_ = place;
    part_ = {before, after, {}};
    update();
}

void CompareView::clear(const QString& why) {
    whole_ = part_ = {};
    why_empty_ = why;
    update();
}

void CompareView::set_mode(Mode mode) {
    mode_ = mode;
    emit mode_changed();
    changed();
}

void CompareView::set_zoom(double zoom) {
    zoom_ = zoom > 0 ? std::clamp(zoom, least_zoom, most_zoom) : 0;
    changed();
}

void CompareView::set_grid(double pitch) {
    grid_ = pitch;
    update();
}

void CompareView::set_crop(const QRectF& kept) {
    crop_ = kept;
    update();
}

void CompareView::set_lines(std::vector<Marked> lines) {
    lines_ = std::move(lines);
    update();
}

void CompareView::set_marking(bool on) {
    marking_ = on;
    area_ = {};
    setCursor(on ? Qt::CrossCursor : Qt::ArrowCursor);
    update();
}

void CompareView::look_at(QPointF place) {
    centre_ = {std::clamp(place.x(), 0.0, 1.0), std::clamp(place.y(), 0.0, 1.0)};
    changed();
}

void CompareView::changed() {
    update();
    emit view_changed();
}

void CompareView::resizeEvent(QResizeEvent*) { changed(); }

int CompareView::split_x() const { return static_cast<int>(std::lround(split_ * width())); }

QRectF CompareView::pane(int which) const {
    if (mode_ != Mode::beside) return rect();
    const double half = (width() - 4) / 2.0;
    return {which == 0 ? 0 : half + 4, 0, half, double(height())};
}

double CompareView::fitting(const QRectF& pane) const {
    return std::min((pane.width() - 2 * margin) / size_.width(), (pane.height() - 2 * margin) / size_.height());
}

double CompareView::scale() const {
    if (size_.isEmpty()) return 0;
    return zoom_ > 0 ? zoom_ : fitting(pane(0)) * devicePixelRatioF();
}

QRectF CompareView::picture_in(const QRectF& pane) const {
    if (size_.isEmpty()) return {};
    const double s = scale() / devicePixelRatioF();
    const QPointF at = zoom_ > 0 ? QPointF(centre_.x() * size_.width(), centre_.y() * size_.height())
                                 : QPointF(size_.width() / 2, size_.height() / 2);
    return {QPointF(std::round(pane.center().x() - at.x() * s), std::round(pane.center().y() - at.y() * s)), size_ * s};
}

QPointF CompareView::to_widget(const QPointF& picture) const {
    const QRectF r = picture_rect();
    return r.topLeft() + picture * (scale() / devicePixelRatioF());
}

QPointF CompareView::to_picture(const QPointF& widget) const {
    const QRectF r = picture_in(mode_ == Mode::beside && widget.x() > pane(1).left() ? pane(1) : pane(0));
    return (widget - r.topLeft()) / (scale() / devicePixelRatioF());
}

QRectF CompareView::visible() const {
    if (size_.isEmpty()) return {};
    const QRectF p = pane(0), r = picture_in(p);
    const double s = scale() / devicePixelRatioF();
    return QRectF((p.topLeft() - r.topLeft()) / s, p.size() / s).intersected(QRectF({0, 0}, size_));
}

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
    // What is empty shows through.
    p.fillRect(to, theme::bench);
    p.fillRect(to, QBrush(theme::faint_ink, Qt::BDiagPattern));
    p.setRenderHint(QPainter::SmoothPixmapTransform, scale() < 2);
    p.drawImage(to, image(whole_, side));
    if (!part_.after.isNull()) {
        const double s = scale() / devicePixelRatioF();
        const QRectF place(to.topLeft() + part_place_.topLeft() * s, part_place_.size() * s);
        // Empty places of the part are those of the whole, only finer.
        p.setRenderHint(QPainter::SmoothPixmapTransform, scale() < 1);
        p.drawImage(place, image(part_, side));
    }
    p.restore();
}

void CompareView::draw_grid(QPainter& p, const QRectF& pane) const {
    const QRectF to = picture_in(pane);
    const double s = scale() / devicePixelRatioF(), step = grid_ * s;
    if (step < 4) return;
    p.save();
    p.setClipRect(pane.intersected(to));
    // From the middle, so that the axis of the lens lies on a crossing.
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

/// Where the picture after the correction is seen.
QRectF CompareView::after_part() const {
    if (mode_ == Mode::split) return QRectF(split_x(), 0, width() - split_x(), height());
    if (mode_ == Mode::split_down) return QRectF(0, split_ * height(), width(), (1 - split_) * height());
    return rect();
}

void CompareView::draw_crop(QPainter& p, const QRectF& pane) const {
    if (crop_.isEmpty()) return;
    const QRectF to = picture_in(pane);
    const double s = scale() / devicePixelRatioF();
    const QRectF kept(to.topLeft() + crop_.topLeft() * s, crop_.size() * s);
    QPainterPath outside;
    outside.addRect(to);
    outside.addRect(kept);
    p.save();
    p.setClipRect(pane.intersected(after_part()));
    p.fillPath(outside, QColor(119, 119, 119, 190));
    p.setPen(QPen(Qt::white, 3));
    p.drawRect(kept);
    p.setPen(QPen(theme::mark, 1));
    p.drawRect(kept);
    p.restore();
}

void CompareView::draw_lines(QPainter& p, const QRectF& pane) const {
    const QRectF to = picture_in(pane);
    const double s = scale() / devicePixelRatioF();
    p.save();
    p.setClipRect(pane.intersected(after_part()));
    p.setRenderHint(QPainter::Antialiasing);
    for (const Marked& m : lines_) {
        const QLineF line(to.topLeft() + m.line.p1() * s, to.topLeft() + m.line.p2() * s);
        p.setPen(QPen(QColor(255, 255, 255, 200), 3.5));
        p.drawLine(line);
        p.setPen(QPen(m.colour, 1.7, m.dashed ? Qt::DashLine : Qt::SolidLine));
        p.drawLine(line);
    }
    p.restore();
}

/// The line that lies nearest to a place of the widget, within a few pixels; -1: none.
int CompareView::line_at(const QPointF& at) const {
    constexpr double near = 7;
    const QPointF place = to_picture(at);
    const double s = scale() / devicePixelRatioF();
    int best = -1;
    double least = near;
    for (std::size_t i = 0; i < lines_.size(); ++i) {
        const QPointF a = lines_[i].line.p1(), along = lines_[i].line.p2() - a;
        const double length2 = QPointF::dotProduct(along, along);
        const double t = length2 > 0 ? std::clamp(QPointF::dotProduct(place - a, along) / length2, 0.0, 1.0) : 0;
        const QPointF off = (place - a - t * along) * s;
        if (const double d = std::hypot(off.x(), off.y()); d < least) {
            least = d;
            best = static_cast<int>(i);
        }
    }
    return best;
}

void CompareView::draw_tags(QPainter& p) const {
    const auto tag = [&](const QString& text, const QRectF& in, bool left) {
        QFont f = theme::text_font(9);
        f.setBold(true);
        p.setFont(f);
        const double wide = QFontMetricsF(f).horizontalAdvance(text) + 20;
        const QRectF box(left ? in.left() + 8 : in.right() - wide - 8, 8, wide, 20);
        p.fillRect(box, QColor(250, 250, 247, 225));
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
    p.setPen(QPen(theme::mark, 1));
    p.drawLine(line);
    p.setBrush(theme::paper);
    p.setPen(QPen(theme::mark, 1.5));
    p.drawRect(down ? QRectF(width() / 2.0 - 16, at - 5, 32, 10) : QRectF(at - 5, height() / 2.0 - 16, 10, 32));
    p.setBrush(Qt::NoBrush);
}

/// Where in the picture one is.
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
    p.setPen(QPen(theme::mark, 1.5));
    p.drawRect(here);
}

void CompareView::draw_difference_scale(QPainter& p) const {
    const QRectF box(12, height() - 44.0, 200, 12);
    QLinearGradient grey(box.topLeft(), box.topRight());
    grey.setColorAt(0, Qt::black);
    grey.setColorAt(1, Qt::white);
    p.fillRect(box.adjusted(-6, -6, 6, 30), QColor(250, 250, 247, 225));
    p.fillRect(box, grey);
    p.setPen(theme::ink);
    p.setFont(theme::figure_font(8.5));
    const double most = 100.0 * 128 / exaggeration / 255;
    const QRectF under = box.translated(0, 13).adjusted(-2, 0, 2, 4);
    p.drawText(under, Qt::AlignLeft, QString("−%1 %").arg(most, 0, 'f', 1));
    p.drawText(under, Qt::AlignHCenter, "0");
    p.drawText(under, Qt::AlignRight, QString("+%1 %").arg(most, 0, 'f', 1));
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
        draw_crop(p, pane(k));
        draw_lines(p, pane(k));
    }
    if (!area_.isEmpty()) {
        p.setPen(QPen(theme::mark, 1.5, Qt::DashLine));
        p.drawRect(area_);
    }
    draw_tags(p);
    if (mode_ == Mode::split || mode_ == Mode::split_down) draw_split(p);
    if (mode_ == Mode::difference) draw_difference_scale(p);
    draw_overview(p);
    if (hasFocus()) {
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(theme::mark, 2));
        p.drawRect(rect().adjusted(1, 1, -1, -1));
    }
}

bool CompareView::on_split(const QPointF& at) const {
    if (mode_ == Mode::split) return std::abs(at.x() - split_x()) < 8;
    return mode_ == Mode::split_down && std::abs(at.y() - split_ * height()) < 8;
}

void CompareView::zoom_about(const QPointF& at, double zoom) {
    const QPointF place = to_picture(at);
    const double fit = fitting(pane(0)) * devicePixelRatioF();
    // Smaller than fit there is nothing more to see.
    zoom_ = zoom <= std::max(std::min(fit, 1.0), least_zoom) ? 0 : std::min(zoom, most_zoom);
    if (zoom_ > 0) {
        const QPointF middle = (mode_ == Mode::beside && at.x() > pane(1).left() ? pane(1) : pane(0)).center();
        const QPointF centre = place - (at - middle) * (devicePixelRatioF() / zoom_);
        look_at({centre.x() / size_.width(), centre.y() / size_.height()});
    }
    changed();
    emit zoomed();
}

void CompareView::wheelEvent(QWheelEvent* event) {
    if (size_.isEmpty()) return;
    zoom_about(event->position(), scale() * std::exp2(event->angleDelta().y() / 240.0));
    event->accept();
}

void CompareView::mouseDoubleClickEvent(QMouseEvent* event) {
    if (!size_.isEmpty() && !on_split(event->position())) zoom_about(event->position(), zoom_ > 0 ? 0 : 1);
}

void CompareView::mousePressEvent(QMouseEvent* event) {
    drag_from_ = press_ = event->position();
    dragging_split_ = !marking_ && on_split(event->position());
}

void CompareView::mouseMoveEvent(QMouseEvent* event) {
    if (marking_) {
        if (event->buttons() & Qt::LeftButton) area_ = QRectF(press_, event->position()).normalized();
        return update();
    }
    if (on_split(event->position()))
        setCursor(mode_ == Mode::split ? Qt::SplitHCursor : Qt::SplitVCursor);
    else
        setCursor(zoom_ > 0 ? Qt::OpenHandCursor : Qt::ArrowCursor);
    if (!(event->buttons() & Qt::LeftButton)) return;
    if (dragging_split_) {
        const QPointF at = event->position();
        split_ = std::clamp(mode_ == Mode::split ? at.x() / width() : at.y() / height(), 0.0, 1.0);
        update();
    } else if (zoom_ > 0 && !size_.isEmpty()) {
        const QPointF moved = (event->position() - drag_from_) * devicePixelRatioF() / zoom_;
        drag_from_ = event->position();
        look_at(centre_ - QPointF(moved.x() / size_.width(), moved.y() / size_.height()));
    }
}

void CompareView::mouseReleaseEvent(QMouseEvent* event) {
    const bool clicked = !dragging_split_ && (event->position() - press_).manhattanLength() < 4;
    dragging_split_ = false;
    if (marking_ && area_.width() > 8 && area_.height() > 8) {
        const QRectF area(to_picture(area_.topLeft()), to_picture(area_.bottomRight()));
        set_marking(false);
        emit area_marked(area.intersected(QRectF({0, 0}, size_)));
        return;
    }
    if (const int line = clicked ? line_at(event->position()) : -1; line >= 0) emit line_clicked(line);
}

void CompareView::keyPressEvent(QKeyEvent* event) {
    const double step = zoom_ > 0 ? 0.05 : 0.02;
    switch (event->key()) {
        case Qt::Key_Space:  // swaps
            set_mode(mode_ == Mode::after ? Mode::before : Mode::after);
            return;
        case Qt::Key_Plus: return zoom_about(rect().center(), 2 * scale());
        case Qt::Key_Minus: return zoom_about(rect().center(), scale() / 2);
        case Qt::Key_Left:
        case Qt::Key_Right: {
            const double d = event->key() == Qt::Key_Left ? -step : step;
            if (mode_ == Mode::split && zoom_ == 0) {
                split_ = std::clamp(split_ + d, 0.0, 1.0);
                update();
            } else {
                look_at(centre_ + QPointF(d, 0));
            }
            return;
        }
        case Qt::Key_Up: look_at(centre_ - QPointF(0, step)); return;
        case Qt::Key_Down: look_at(centre_ + QPointF(0, step)); return;
        default: QWidget::keyPressEvent(event);
    }
}

}  // namespace optrel
