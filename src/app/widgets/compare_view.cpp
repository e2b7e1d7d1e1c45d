// SPDX-License-Identifier: GPL-3.0-or-later
#include "widgets/compare_view.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <algorithm>
#include <cmath>

#include "theme.h"

namespace optrel {

namespace {

constexpr double margin = 8, least_zoom = 0.25, most_zoom = 16;
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
    whole_ = {before, after, {}, whole_.marks};
    update();
}

void CompareView::set_part(const QRectF& place, const QImage& before, const QImage& after) {
    part_place_ = place;
    part_ = {before, after, {}, part_.marks};
    update();
}

void CompareView::set_whole_marks(const QImage& marks) {
    whole_.marks = marks;
    update();
}

void CompareView::set_part_marks(const QImage& marks) {
    part_.marks = marks;
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
    marks_.crop = kept;
    update();
}

void CompareView::set_lines(std::vector<PictureMarks::Line> lines) {
    marks_.lines = std::move(lines);
    update();
}

void CompareView::set_handles(std::vector<QPointF> handles, bool closed) {
    if (handles.size() != marks_.handles.size()) marks_.chosen = handles.empty() ? -1 : 0;
    marks_.handles = std::move(handles);
    marks_.closed = closed;
    update();
}

void CompareView::set_spots(std::vector<QPointF> spots) {
    marks_.spots = std::move(spots);
    update();
}

void CompareView::set_ring(std::vector<QPointF> ring) {
    marks_.ring = std::move(ring);
    update();
}

void CompareView::set_marking(Marking what) {
    marking_ = what;
    press_ = marked_to_ = {};
    setCursor(what == Marking::nothing ? Qt::ArrowCursor : Qt::CrossCursor);
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

bool CompareView::on_split(const QPointF& at) const {
    if (mode_ == Mode::split) return std::abs(at.x() - split_x()) < 8;
    return mode_ == Mode::split_down && std::abs(at.y() - split_ * height()) < 8;
}

void CompareView::zoom_about(const QPointF& at, double zoom) {
    const QPointF place = to_picture(at);
    const double fit = fitting(pane(0)) * devicePixelRatioF();
    // Zooming out stops when the whole picture fits.
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

/// Grabs the handle or line under the pointer.
bool CompareView::hold(const QPointF& at) {
    held_ = Held::nothing;
    if (marking_ != Marking::nothing || size_.isEmpty()) return false;
    const QPointF place = to_picture(at);
    if (const int handle = marks_.handle_at(place, spread()); handle >= 0) {
        marks_.chosen = handle;
        held_ = Held::handle;
    } else if (on_split(at)) {
        held_ = Held::split;
    } else if (marks_.on_ring(place, spread())) {
        held_ = Held::ring;
    }
    update();
    return held_ != Held::nothing;
}

void CompareView::move_held(const QPointF& at, bool rests) {
    const QPointF place = to_picture(at);
    switch (held_) {
        case Held::split:
            split_ = std::clamp(mode_ == Mode::split ? at.x() / width() : at.y() / height(), 0.0, 1.0);
            return update();
        case Held::handle: emit handle_moved(marks_.chosen, place, rests); return;
        case Held::ring: emit ring_moved(place, rests); return;
        case Held::nothing: return;
    }
}

void CompareView::mousePressEvent(QMouseEvent* event) {
    drag_from_ = press_ = marked_to_ = event->position();
    hold(event->position());
}

void CompareView::mouseMoveEvent(QMouseEvent* event) {
    const QPointF at = event->position();
    const bool dragged = event->buttons() & Qt::LeftButton;
    if (const QPointF place = to_picture(at); !dragged && QRectF({0, 0}, size_).contains(place)) emit pointed(place);
    if (marking_ != Marking::nothing) {
        if (dragged) marked_to_ = at;
        return update();
    }
    if (dragged && held_ != Held::nothing) return move_held(at, false);
    const bool on_mark = !size_.isEmpty() &&
                         (marks_.handle_at(to_picture(at), spread()) >= 0 || marks_.on_ring(to_picture(at), spread()));
    if (on_mark)
        setCursor(Qt::SizeAllCursor);
    else if (on_split(at))
        setCursor(mode_ == Mode::split ? Qt::SplitHCursor : Qt::SplitVCursor);
    else
        setCursor(zoom_ > 0 ? Qt::OpenHandCursor : Qt::ArrowCursor);
    if (dragged && zoom_ > 0 && !size_.isEmpty()) {
        const QPointF moved = (at - drag_from_) / spread();
        drag_from_ = at;
        look_at(centre_ - QPointF(moved.x() / size_.width(), moved.y() / size_.height()));
    }
}

void CompareView::finish_marking() {
    constexpr double least = 8;
    const QPointF from = to_picture(press_), to = to_picture(marked_to_);
    const QPointF far = marked_to_ - press_;
    const QRectF all({0, 0}, size_);
    if (marking_ == Marking::area && std::min(std::abs(far.x()), std::abs(far.y())) > least) {
        set_marking(Marking::nothing);
        emit area_marked(QRectF(from, to).normalized().intersected(all));
    } else if (marking_ == Marking::line && std::hypot(far.x(), far.y()) > least) {
        set_marking(Marking::nothing);
        emit line_marked({from, to});
    }
    press_ = marked_to_ = {};
    update();
}

void CompareView::mouseReleaseEvent(QMouseEvent* event) {
    if (marking_ != Marking::nothing) return finish_marking();
    const QPointF at = event->position();
    const bool clicked = (at - press_).manhattanLength() < 4;
    if (held_ != Held::nothing) {
        if (!clicked) move_held(at, true);
        held_ = Held::nothing;
        return;
    }
    if (const int line = clicked && !size_.isEmpty() ? marks_.line_at(to_picture(at), spread()) : -1; line >= 0)
        emit line_clicked(line);
}

/// Returns true when the key moved or selected a handle.
bool CompareView::move_handle(int key, bool far) {
    const int count = static_cast<int>(marks_.handles.size());
    if (count == 0) return false;
    if (key == Qt::Key_PageDown || key == Qt::Key_PageUp) {
        marks_.chosen = (marks_.chosen + (key == Qt::Key_PageDown ? 1 : count - 1)) % count;
        update();
        return true;
    }
    const double step = far ? 10 : 1;
    QPointF by;
    if (key == Qt::Key_Left) by = {-step, 0};
    if (key == Qt::Key_Right) by = {step, 0};
    if (key == Qt::Key_Up) by = {0, -step};
    if (key == Qt::Key_Down) by = {0, step};
    if (by.isNull()) return false;
    emit handle_moved(marks_.chosen, marks_.handles[marks_.chosen] + by, true);
    return true;
}

void CompareView::keyPressEvent(QKeyEvent* event) {
    const double step = zoom_ > 0 ? 0.05 : 0.02;
    if (move_handle(event->key(), event->modifiers() & Qt::ShiftModifier)) return;
    switch (event->key()) {
        case Qt::Key_Space:  // swaps
            set_mode(mode_ == Mode::after ? Mode::before : Mode::after);
            return;
        case Qt::Key_Escape: emit escaped(); return;
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
