// SPDX-License-Identifier: GPL-3.0-or-later
#include "inspect/spot_board.h"

#include <QMouseEvent>
#include <QPainter>
#include <QWheelEvent>
#include <algorithm>
#include <cmath>

#include "frames/orientation.h"
#include "inspect/look_image.h"
#include "studio/development/prepare_frame.h"
#include "theme.h"
#include "window_words.h"

namespace optrel {

namespace {

constexpr double tile_gap = 6, tile_text_height = 20, least_spot_zoom = 0.25, most_spot_zoom = 8;

}  // namespace

SpotBoard::SpotBoard(Jobs& jobs, QWidget* parent) : QWidget(parent), jobs_(jobs) {
    setAccessibleName("The same spot of several frames");
    setToolTip("Drag to look elsewhere, in all of them at once; the wheel magnifies");
    setMinimumSize(320, 220);
}

void SpotBoard::show_frames(std::vector<Subject> subjects) {
    if (subjects.size() > most) subjects.resize(most);
    std::erase_if(ready_, [&](const auto& entry) {
        return std::none_of(subjects.begin(), subjects.end(), [&](const Subject& s) { return s.path == entry.first; });
    });
    subjects_ = std::move(subjects);
    shown_.assign(subjects_.size(), {});
    looking_.cancel();
    ask();
}

QRectF SpotBoard::cell(int frame) const {
    const int across = count() > 1 ? 2 : 1, down = count() > 2 ? 2 : 1;
    const double wide = (width() - tile_gap * (across + 1)) / across, high = (height() - tile_gap * (down + 1)) / down;
    return {tile_gap + (frame % across) * (wide + tile_gap), tile_gap + (frame / across) * (high + tile_gap), wide,
            high};
}

void SpotBoard::set_screen(std::shared_ptr<const ScreenColours> screen) {
    if (screen == screen_) return;
    screen_ = std::move(screen);
    ask();
}

SpotBoard::Shown SpotBoard::look(const Subject& s, const Part& wanted, Ready& ready, const Progress& progress) {
    const auto& [seen, place, zoom, screen] = wanted;
    Shown out;
    try {
        ReadyFrame& kept = ready[s.path];
        if (!kept.frame || !(kept.sensor == s.development.sensor))
            kept = {s.development.sensor,
                    prepare_frame(s.path, s.development.metadata, s.development.sensor, progress)};
        const auto& frame = kept.frame;
        const int orientation = s.development.metadata.orientation;
        const cv::Size held = size_as_held(frame->size(), orientation);
        const QSizeF size(std::min(seen.width() / zoom, double(held.width)),
                          std::min(seen.height() / zoom, double(held.height)));
        // Limited to positions that all pictures can show.
        const auto begin = [](double share, double length, double part) {
            return std::round(std::clamp(share * length - part / 2, 0.0, length - part));
        };
        const QRectF part({begin(place.x(), held.width, size.width()), begin(place.y(), held.height, size.height())},
                          size);
        const double step = std::max(1.0, 1 / zoom);
        out.image =
            image_of(frame->look(s.development.fields, s.development.profile,
                                 on_sensor(part, step, frame->size(), orientation), progress, {.screen = screen.get()}),
                     orientation);
        out.scale = zoom * step;
    } catch (const Cancelled&) {
        throw;
    } catch (const std::exception& error) {
        out.problem = q(error.what());
    }
    return out;
}

void SpotBoard::ask() {
    if (subjects_.empty()) return;
    again_ = looking_.running();
    if (again_) return;
    const double dpr = devicePixelRatioF();
    QSizeF seen = cell(0).size() * dpr;
    seen.rheight() -= tile_text_height * dpr;
    looking_.start(
        jobs_,
        [subjects = subjects_, part = Part{seen, place_, zoom_, screen_}, ready = ready_](const Progress& progress) {
            Answer answer{{}, ready};
            for (const Subject& s : subjects) {
                answer.shown.push_back(look(s, part, answer.ready, progress));
                progress.check();
            }
            return answer;
        },
        [this](std::optional<Answer> answer, const QString&) {
            if (!answer) return;
            shown_ = std::move(answer->shown);
            ready_ = std::move(answer->ready);
            update();
            if (again_) ask();
        });
    update();
}

void SpotBoard::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.fillRect(rect(), theme::surround);
    for (int i = 0; i < count(); ++i) {
        const QRectF c = cell(i), picture = c.adjusted(0, 0, 0, -tile_text_height);
        p.save();
        p.setClipRect(picture);
        p.fillRect(picture, theme::bench);
        const Shown& s = shown_[i];
        if (!s.image.isNull()) {
            const QSizeF size = QSizeF(s.image.size()) * (s.scale / devicePixelRatioF());
            const QRectF to(picture.center() - QPointF(size.width() / 2, size.height() / 2), size);
            p.fillRect(to, QBrush(theme::faint_ink, Qt::BDiagPattern));
            p.drawImage(to, s.image);
        } else {
            p.setPen(theme::ink);
            p.drawText(picture.adjusted(16, 0, -16, 0), Qt::AlignCenter | Qt::TextWordWrap,
                       s.problem.isEmpty() ? "Looking …" : s.problem);
        }
        p.restore();
        p.setPen(Qt::white);
        p.setFont(theme::text_font(9));
        const QRectF under(c.left(), c.bottom() - tile_text_height, c.width(), tile_text_height);
        p.drawText(under, Qt::AlignLeft | Qt::AlignVCenter,
                   p.fontMetrics().elidedText(subjects_[i].caption, Qt::ElideMiddle, static_cast<int>(c.width())));
    }
}

void SpotBoard::mouseMoveEvent(QMouseEvent* event) {
    if (!(event->buttons() & Qt::LeftButton) || subjects_.empty()) return;
    const Metadata& m = subjects_.front().development.metadata;
    const cv::Size held = size_as_held({m.width, m.height}, m.orientation);
    const QPointF by = (event->position() - from_) * devicePixelRatioF() / zoom_;
    from_ = event->position();
    place_ = {std::clamp(place_.x() - by.x() / held.width, 0.0, 1.0),
              std::clamp(place_.y() - by.y() / held.height, 0.0, 1.0)};
    ask();
}

void SpotBoard::wheelEvent(QWheelEvent* event) {
    zoom_ = std::clamp(zoom_ * std::exp2(event->angleDelta().y() / 240.0), least_spot_zoom, most_spot_zoom);
    ask();
    event->accept();
}

}  // namespace optrel
