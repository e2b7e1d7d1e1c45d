// SPDX-License-Identifier: GPL-3.0-or-later
// Straightening in the window: finds the lines of a frame off the window's thread, and solves anew when one is struck
// out.
#pragma once

#include <QLineF>
#include <QObject>
#include <memory>
#include <vector>

#include "frames/metadata.h"
#include "latest.h"
#include "studio/straightening.h"

namespace optrel {

class StraightenTool : public QObject {
    Q_OBJECT
public:
    explicit StraightenTool(Jobs& jobs) : jobs_(jobs) {}

    void find(const std::filesystem::path& frame, const Metadata& metadata, const ResolvedFrame& fields,
              const std::optional<AppliedProfile>& profile, TurnAngles angles);
    void forget();
    /// Solves others; what was struck out stays so.
    void set_angles(TurnAngles angles);
    /// The lines of a frame are there, or are being found.
    bool active() const { return lines_ != nullptr || finding_.running(); }

    struct Shown {
        QLineF line;  ///< px of the frame, on the sensor
        LineSense used = LineSense::neither;
        bool struck = false;
    };
    std::vector<Shown> shown() const;
    /// Strikes a line out, or takes it in again.
    void toggle(int line);
    /// Adds one that a person drew along an edge, px of the frame.
    void draw(const Vec2& from, const Vec2& to);
    /// Solves from the corners of a rectangle instead, marked to `mark_px`.
    void level(const std::vector<Vec2>& corners, double mark_px, const FrameDevelopment& development);
    const std::shared_ptr<FrameLines>& lines() const { return lines_; }
    /// Which of the lines are used, and not struck out.
    std::vector<bool> wanted() const;
    const std::optional<Straightened>& result() const { return result_; }
    QString text() const { return text_; }

signals:
    void changed();

private:
    void solve();
    void propose(const Straightened& solved, const QString& by);

    Jobs& jobs_;
    std::shared_ptr<FrameLines> lines_;
    std::vector<bool> struck_;
    TurnAngles angles_ = TurnAngles::roll_pitch;
    std::optional<Straightened> result_;
    QString text_;
    Latest<FrameLines> finding_;
};

}  // namespace optrel
