// SPDX-License-Identifier: GPL-3.0-or-later
// Straightening: detects lines of a frame on a worker, and solves again when the user excludes one.
#pragma once

#include <QLineF>
#include <QObject>
#include <memory>
#include <vector>

#include "frames/metadata.h"
#include "latest_result.h"
#include "studio/development/straightening.h"

namespace optrel {

class StraightenTool : public QObject {
    Q_OBJECT
public:
    explicit StraightenTool(Jobs& jobs) : jobs_(jobs) {}

    void find(const std::filesystem::path& frame, const Metadata& metadata, const ResolvedFrame& fields,
              const std::optional<AppliedProfile>& profile, TurnAngles angles);
    void forget();
    /// Solves for other angles; excluded lines stay excluded.
    void set_angles(TurnAngles angles);
    /// The lines of a frame have been detected, or are being detected.
    bool active() const { return lines_ != nullptr || finding_.running(); }

    struct Shown {
        QLineF line;  ///< px of the frame
        LineSense used = LineSense::neither;
        bool struck = false;
    };
    std::vector<Shown> shown() const;
    /// Excludes a line, or includes it again.
    void toggle(int line);
    /// Adds a line that the user drew along an edge, px of the frame.
    void draw(const Vec2& from, const Vec2& to);
    /// Solves from the corners of a rectangle, marked with an accuracy of `mark_px`.
    void level(const std::vector<Vec2>& corners, double mark_px, const FrameDevelopment& development);
    const std::shared_ptr<FrameLines>& lines() const { return lines_; }
    /// Lines that are used and not excluded.
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
    LatestResult<FrameLines> finding_;
};

}  // namespace optrel
