// SPDX-License-Identifier: GPL-3.0-or-later
// Has the chosen frame developed at the size at which it is shown, before and after, off the window's thread.
//
// Belongs to the window's thread. What was asked for last is what is shown: work that is out of date is cancelled, and
// what it brings back is dropped. Frames stay ready for a while, and those beside the chosen one are read ahead.
#pragma once

#include <QImage>
#include <QObject>
#include <deque>
#include <memory>
#include <optional>

#include "base/progress.h"
#include "frames/metadata.h"
#include "render/prepared_frame.h"
#include "scene/patch_figures.h"

namespace optrel {

class Jobs;

/// A frame to look at.
struct LookSubject {
    std::filesystem::path path;
    Metadata metadata;

    cv::Size sensor() const { return {metadata.width, metadata.height}; }
    /// As it is held.
    QSizeF size() const;
};

/// A small part at full size, before and after, with what it shows of the lens.
struct LoupePatch {
    QImage before, after;
    PatchFigures before_figures, after_figures;
};

class LookDesk : public QObject {
    Q_OBJECT
public:
    explicit LookDesk(Jobs& jobs) : jobs_(jobs) {}
    ~LookDesk() override;

    /// What `after` is made with. A new subject begins with what is known of it.
    void show(const LookSubject& subject, const ResolvedFrame& fields, const std::optional<AppliedProfile>& profile);
    void show_nothing();
    /// The part that is seen, px of the picture as it is held, and how many device pixels each of its pixels has.
    void look_at(const QRectF& visible, double scale);
    /// Parts that are looked at through loupes as long as they are wanted, px of the picture as it is held; none ends
    /// it.
    void look_through(std::vector<QRectF> patches);
    /// The light of the frame is wanted with each whole picture.
    void want_light(bool wanted);
    /// Reads frames ahead, when nothing else is wanted.
    void read_ahead(std::vector<LookSubject> subjects) { ahead_ = std::move(subjects); }
    /// That of the newest whole picture after the correction; null while none is there.
    const std::shared_ptr<const Framing>& framing() const { return framing_; }
    bool working() const { return whole_.running || part_.running || loupes_.running; }

signals:
    /// The whole picture, reduced; transparent where it is empty.
    void whole_ready(const QImage& before, const QImage& after);
    /// The part that is seen, at the size at which it is seen.
    void part_ready(const QRectF& place, const QImage& before, const QImage& after);
    /// In the order in which they were asked for.
    void loupes_ready(const std::vector<LoupePatch>& patches);
    void light_ready(const LightDistribution& light);
    void failed(const QString& why);

private:
    /// One kind of work of which only the newest matters.
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
    Frame known(const std::filesystem::path& path) const;
    void keep(const std::filesystem::path& path, const Frame& frame);
    void read_next();

    Jobs& jobs_;
    std::optional<LookSubject> subject_;
    ResolvedFrame fields_;
    std::optional<AppliedProfile> profile_;
    QRectF visible_;
    double scale_ = 0;
    std::vector<QRectF> patches_;
    bool light_wanted_ = false;
    Line whole_, part_, loupes_;
    int number_ = 0;  ///< of the newest subject
    std::shared_ptr<const Framing> framing_;
    QRectF before_place_;
    QImage before_whole_, before_part_;  ///< of the subject; the part at before_place_
    std::deque<std::pair<std::filesystem::path, Frame>> ready_;
    std::vector<LookSubject> ahead_;
    std::shared_ptr<Progress> reading_;
};

}  // namespace optrel
