// SPDX-License-Identifier: GPL-3.0-or-later
#include "inspect/preview_service.h"

#include <QPointer>
#include <algorithm>
#include <cmath>

#include "base/error.h"
#include "frames/orientation.h"
#include "inspect/look_image.h"
#include "jobs.h"
#include "render/lost_marks.h"
#include "studio/development/prepare_frame.h"
#include "window_words.h"

namespace optrel {

namespace {

constexpr double whole_px = 1100;  ///< longer side of the reduced picture
constexpr std::size_t most_ready = 3;

}  // namespace

struct PreviewService::Question {
    int number = 0;
    PreviewSubject subject;
    ResolvedFrame fields;
    std::optional<AppliedProfile> profile;
    QRectF place;
    double step = 1;
    std::vector<QRectF> patches;  ///< in place of a position
    Frame frame;
    QImage before;
    bool light = false, marks = false;
    std::shared_ptr<const ScreenColours> screen;
    cv::Rect area;  ///< to be read, in place of a picture
};

struct PreviewService::Answer {
    Frame frame;
    QImage before, after, marks;
    std::array<double, 7> marked{};  ///< percent
    std::optional<PixelReading> reading;
    std::vector<LoupePatch> patches;
    std::shared_ptr<const Framing> framing;
    std::optional<LightDistribution> light;
    QString problem;
};

QSizeF PreviewSubject::size() const {
    const cv::Size held = size_as_held(sensor_size(), metadata.orientation);
    return {double(held.width), double(held.height)};
}

PreviewService::~PreviewService() {
    for (const auto& progress : {whole_.running, part_.running, loupes_.running, reading_pixels_.running, reading_})
        if (progress) progress->cancel();
}

void PreviewService::show(const PreviewSubject& subject, const ResolvedFrame& fields,
                          const std::optional<AppliedProfile>& profile) {
    if (!subject_ || !subject_->same_samples(subject) ||
        subject_->metadata.orientation != subject.metadata.orientation) {
        ++number_;
        before_whole_ = before_part_ = QImage();
        framing_ = nullptr;
        if (reading_) reading_->cancel();
    }
    subject_ = subject;
    fields_ = fields;
    profile_ = profile;
    start(whole_);
    start(part_);
    start(loupes_);
    start(reading_pixels_);
}

void PreviewService::look_through(std::vector<QRectF> patches) {
    patches_ = std::move(patches);
    start(loupes_);
}

void PreviewService::want_light(bool wanted) {
    if (wanted && !light_wanted_) {
        light_wanted_ = true;
        return start(whole_);
    }
    light_wanted_ = wanted;
}

void PreviewService::set_screen(std::shared_ptr<const ScreenColours> screen) {
    if (screen == screen_) return;
    screen_ = std::move(screen);
    before_whole_ = before_part_ = QImage();
    for (Line* line : {&whole_, &part_, &loupes_}) start(*line);
}

void PreviewService::want_marks(bool wanted) {
    if (wanted == marks_wanted_) return;
    marks_wanted_ = wanted;
    for (Line* line : {&whole_, &part_}) start(*line);
}

void PreviewService::read(const cv::Rect& area) {
    area_ = area;
    start(reading_pixels_);
}

void PreviewService::show_nothing() {
    ++number_;
    subject_.reset();
    framing_ = nullptr;
    for (Line* line : {&whole_, &part_, &loupes_, &reading_pixels_}) {
        if (line->running) line->running->cancel();
        line->again = false;
    }
}

void PreviewService::look_at(const QRectF& visible, double scale) {
    visible_ = visible;
    scale_ = scale;
    start(part_);
}

PreviewService::Frame PreviewService::known(const PreviewSubject& subject) const {
    for (const auto& [kept, frame] : *ready_)
        if (kept.same_samples(subject)) return frame;
    return nullptr;
}

void PreviewService::keep(const PreviewSubject& subject, const Frame& frame) {
    if (!frame || known(subject)) return;
    ready_->emplace_back(subject, frame);
    while (ready_->size() > most_ready) {
        // The selected frame stays prepared.
        const bool chosen = subject_ && ready_->front().first.same_samples(*subject_);
        ready_->erase(ready_->begin() + (chosen ? 1 : 0));
    }
}

std::optional<PreviewService::Question> PreviewService::question(const Line& line) const {
    if (!subject_) return std::nullopt;
    Question q{number_,          *subject_, fields_, profile_,      {},      1, {},
               known(*subject_), {},        false,   marks_wanted_, screen_, {}};
    if (&line == &reading_pixels_) {
        if (area_.empty()) return std::nullopt;
        q.area = area_;
        return q;
    }
    if (&line == &loupes_) {
        if (patches_.empty()) return std::nullopt;
        q.patches = patches_;
        return q;
    }
    const QSizeF size = subject_->size();
    const double fitting = std::max(size.width(), size.height()) / whole_px;
    if (&line == &whole_) {
        q.place = QRectF({0, 0}, size);
        q.step = fitting < 2 ? 1 : fitting;
        q.before = before_whole_;
        q.light = light_wanted_;
        return q;
    }
    // A part is useful only when it shows more detail than the whole.
    if (visible_.isEmpty() || fitting < 2 || scale_ * fitting < 1.15) return std::nullopt;
    q.step = std::max(1.0, 1 / scale_);
    const QRectF wanted = visible_.intersected(QRectF({0, 0}, size));
    const double grid = 8 * q.step;
    q.place = QRectF(QPointF(std::floor(wanted.left() / grid) * grid, std::floor(wanted.top() / grid) * grid),
                     QPointF(std::ceil(wanted.right() / grid) * grid, std::ceil(wanted.bottom() / grid) * grid));
    if (wanted.isEmpty()) return std::nullopt;
    if (q.place == before_place_) q.before = before_part_;
    return q;
}

void PreviewService::start(Line& line) {
    if (line.running) {
        line.again = true;
        line.running->cancel();
        return;
    }
    const std::optional<Question> q = question(line);
    // No part is wanted any more: one from before would hide what has changed since.
    if (!q && &line == &part_ && subject_) emit part_ready({}, {}, {});
    // All requests except the whole picture wait until the frame has been read for it.
    if (!q || (&line != &whole_ && !q->frame)) return;
    line.running = std::make_shared<Progress>();
    auto answer = std::make_shared<Answer>();
    jobs_.run_quietly(
        [q = *q, answer, progress = line.running] {
            try {
                work(q, *progress, *answer);
            } catch (const Cancelled&) {
            } catch (const std::exception& error) {
                answer->problem = optrel::q(error.what());
            }
        },
        [self = QPointer(this), &line, q = *q, answer] {
            if (self) self->finish(line, q, *answer);
        });
}

void PreviewService::work(const Question& q, const Progress& progress, Answer& answer) {
    answer.frame = q.frame ? q.frame : prepare_frame(q.subject.path, q.subject.metadata, q.subject.sensor, progress);
    const int orientation = q.subject.metadata.orientation;
    const PreparedFrame& frame = *answer.frame;
    const PreparedFrame::Wanted loupe{.keep = PreparedFrame::Keep::light, .screen = q.screen.get()};
    if (!q.area.empty()) {
        answer.reading = read_pixels(frame, q.fields, q.profile, q.area, progress);
        return;
    }
    for (const QRectF& patch : q.patches) {
        const Sampling at = on_sensor(patch, 1, frame.size(), orientation);
        const auto after = frame.look(q.fields, q.profile, at, progress, loupe);
        // The patch before the correction shows the same detail: the source of the patch's centre.
        Sampling there = at;
        const Vec2 half(0.5 * at.size.width, 0.5 * at.size.height), middle = Vec2(at.left, at.top) + half;
        if (const auto fell = after.framing->view.green(middle)) {
            there.left = std::round(fell->x() - half.x());
            there.top = std::round(fell->y() - half.y());
        }
        const auto before = frame.look(neutral_start(), std::nullopt, there, progress, loupe);
        answer.patches.push_back({image_of(before, orientation), image_of(after, orientation),
                                  patch_figures(before.light.channel), patch_figures(after.light.channel)});
    }
    if (!q.patches.empty()) return;
    const Sampling at = on_sensor(q.place, q.step, frame.size(), orientation);
    answer.before =
        q.before.isNull()
            ? image_of(frame.look(neutral_start(), std::nullopt, at, progress, {.screen = q.screen.get()}), orientation)
            : q.before;
    const PreparedFrame::Look after =
        frame.look(q.fields, q.profile, at, progress, {.screen = q.screen.get(), .marks = q.marks});
    if (q.marks) {
        answer.marks = marks_of(after, orientation);
        answer.marked = lost_percent(after.marks, after.empty);
    }
    answer.framing = after.framing;
    answer.after = image_of(after, orientation);
    if (q.light) answer.light = frame.light(q.fields, q.profile);
}

void PreviewService::show_answer(const Line& line, const Question& q, const Answer& answer) {
    if (!answer.patches.empty() && answer.patches.size() == q.patches.size()) emit loupes_ready(answer.patches);
    if (answer.reading && q.area == area_) emit pixels_read(*answer.reading);
    if (answer.after.isNull() || q.screen != screen_) return;
    if (&line == &whole_) {
        before_whole_ = answer.before;
        framing_ = answer.framing;
        emit whole_ready(answer.before, answer.after);
        emit whole_marks_ready(answer.marks, answer.marked);
        if (answer.light) emit light_ready(*answer.light);
    } else {
        before_part_ = answer.before;
        before_place_ = q.place;
        emit part_ready(q.place, answer.before, answer.after);
        emit part_marks_ready(answer.marks);
    }
}

void PreviewService::finish(Line& line, const Question& q, const Answer& answer) {
    const bool again = line.again;
    line.running = nullptr;
    line.again = false;
    if (q.number == number_) {
        keep(q.subject, answer.frame);
        // A place that cannot be read is no reason to take the picture away.
        if (!answer.problem.isEmpty())
            q.area.empty() ? emit failed(answer.problem) : emit not_read(answer.problem);
        else
            show_answer(line, q, answer);
    }
    if (again) start(line);
    for (Line* other : {&part_, &loupes_, &reading_pixels_})
        if (&line == &whole_ && !other->running) start(*other);
    if (!working()) read_next();
}

void PreviewService::read_next() {
    while (!ahead_.empty() && known(ahead_.front())) ahead_.erase(ahead_.begin());
    if (ahead_.empty() || reading_) return;
    const PreviewSubject next = ahead_.front();
    ahead_.erase(ahead_.begin());
    reading_ = std::make_shared<Progress>();
    auto frame = std::make_shared<Frame>();
    jobs_.run_quietly(
        [next, frame, progress = reading_] {
            try {
                *frame = prepare_frame(next.path, next.metadata, next.sensor, *progress);
            } catch (const std::exception&) {
                // Reported when the frame is selected.
            }
        },
        [self = QPointer(this), next, frame] {
            if (!self) return;
            self->reading_ = nullptr;
            self->keep(next, *frame);
            if (!self->working()) self->read_next();
        });
}

}  // namespace optrel
