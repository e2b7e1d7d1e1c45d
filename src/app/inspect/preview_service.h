// SPDX-License-Identifier: GPL-3.0-or-later
// Develops the selected frame at display size, before and after, on workers.
//
// Belongs to the window's thread. Only the newest request counts: outdated work is cancelled and its results are
// dropped. Frames stay prepared for a while, and neighbours of the selected frame are read ahead.
#pragma once

#include <QImage>
#include <QObject>
#include <deque>
#include <memory>
#include <optional>

#include "base/progress.h"
#include "frames/metadata.h"
#include "render/pixel_reading.h"
#include "render/prepared_frame.h"
#include "scene/patch_figures.h"
#include "studio/frames/body_measurements.h"

namespace optrel {

class Jobs;

/// The frame to show.
struct PreviewSubject {
    std::filesystem::path path;
    Metadata metadata;
    SensorFacts sensor;

    cv::Size sensor_size() const { return {metadata.width, metadata.height}; }
    /// In display orientation.
    QSizeF size() const;
    /// True when both are prepared alike.
    bool same_samples(const PreviewSubject& other) const { return path == other.path && sensor == other.sensor; }
};

/// A small part at full size, before and after, with figures about the lens.
struct LoupePatch {
    QImage before, after;
    PatchFigures before_figures, after_figures;
};

class PreviewService : public QObject {
    Q_OBJECT
public:
    /// `shares`: another service whose prepared frames are used and added to.
    explicit PreviewService(Jobs& jobs, const PreviewService* shares = nullptr)
        : jobs_(jobs), ready_(shares ? shares->ready_ : std::make_shared<ReadyFrames>()) {}
    ~PreviewService() override;

    /// Settings for `after`. A new subject starts with its known settings.
    void show(const PreviewSubject& subject, const ResolvedFrame& fields, const std::optional<AppliedProfile>& profile);
    void show_nothing();
    /// Visible part, px of the picture in display orientation, and device px per picture px.
    void look_at(const QRectF& visible, double scale);
    /// Parts shown in loupes, px of the picture in display orientation; an empty list ends it.
    void look_through(std::vector<QRectF> patches);
    /// Also deliver the linear light of the frame with each whole picture.
    void want_light(bool wanted);
    /// Conversion to the screen that shows the pictures; not null.
    void set_screen(std::shared_ptr<const ScreenColours> screen);
    /// Also deliver marks of clipped, black and unshowable pixels.
    void want_marks(bool wanted);
    /// Requests pixels_read() for an area of the corrected picture (px, sensor orientation); an empty area ends it.
    void read(const cv::Rect& area);
    /// Reads frames ahead while nothing else is requested.
    void read_ahead(std::vector<PreviewSubject> subjects) { ahead_ = std::move(subjects); }
    /// Linear light of the newest whole picture after correction; null if there is none.
    const std::shared_ptr<const Framing>& framing() const { return framing_; }
    bool working() const { return whole_.running || part_.running || loupes_.running || reading_pixels_.running; }

signals:
    /// The whole picture, reduced; transparent where it is empty.
    void whole_ready(const QImage& before, const QImage& after);
    /// The visible part at display size.
    void part_ready(const QRectF& place, const QImage& before, const QImage& after);
    /// In the order of the request.
    void loupes_ready(const std::vector<LoupePatch>& patches);
    /// Marks over the whole picture and over the visible part, with their shares of the whole picture in percent, in
    /// the order of LostMark; null pictures where nothing is marked.
    void whole_marks_ready(const QImage& marks, const std::array<double, 7>& percent);
    void part_marks_ready(const QImage& marks);
    void pixels_read(const PixelReading& reading);
    /// The requested area cannot be read.
    void not_read(const QString& why);
    void light_ready(const LightDistribution& light);
    void failed(const QString& why);

private:
    /// One kind of work, of which only the newest request matters.
    struct Line {
        std::shared_ptr<Progress> running;
        bool again = false;
    };
    struct Question;
    struct Answer;
    using Frame = std::shared_ptr<const PreparedFrame>;

    void start(Line& line);
    static void work(const Question& question, const Progress& progress, Answer& answer);
    void finish(Line& line, const Question& question, const Answer& answer);
    void show_answer(const Line& line, const Question& question, const Answer& answer);
    std::optional<Question> question(const Line& line) const;
    Frame known(const PreviewSubject& subject) const;
    void keep(const PreviewSubject& subject, const Frame& frame);
    void read_next();

    Jobs& jobs_;
    std::optional<PreviewSubject> subject_;
    ResolvedFrame fields_;
    std::optional<AppliedProfile> profile_;
    QRectF visible_;
    double scale_ = 0;
    std::vector<QRectF> patches_;
    bool light_wanted_ = false, marks_wanted_ = false;
    std::shared_ptr<const ScreenColours> screen_ = ScreenColours::srgb();
    cv::Rect area_;  ///< requested by read()
    Line whole_, part_, loupes_, reading_pixels_;
    int number_ = 0;  ///< for the newest subject
    std::shared_ptr<const Framing> framing_;
    QRectF before_place_;
    QImage before_whole_, before_part_;  ///< of the subject; for the part at before_place_
    using ReadyFrames = std::deque<std::pair<PreviewSubject, Frame>>;
    std::shared_ptr<ReadyFrames> ready_;
    std::vector<PreviewSubject> ahead_;
    std::shared_ptr<Progress> reading_;
};

}  // namespace optrel
