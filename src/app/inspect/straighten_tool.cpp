// SPDX-License-Identifier: GPL-3.0-or-later
#include "inspect/straighten_tool.h"
#include "base/figure_text.h"
#include "window_words.h"

namespace optrel {

void StraightenTool::find(const std::filesystem::path& frame, const Metadata& metadata, const ResolvedFrame& fields,
                          const std::optional<AppliedProfile>& profile, TurnAngles angles) {
    forget();
    angles_ = angles;
    text_ = "Looking for lines …";
    finding_.start(
        jobs_, [=](const Progress& progress) { return find_lines(frame, metadata, fields, profile, progress); },
        [this](std::optional<FrameLines> lines, const QString& problem) {
            text_ = problem;
            if (lines) {
                lines_ = std::make_shared<FrameLines>(std::move(*lines));
                struck_.assign(lines_->lines.size(), false);
                solve();
            }
            emit changed();
        });
    emit changed();
}

void StraightenTool::forget() {
    finding_.cancel();
    lines_ = nullptr;
    result_.reset();
    text_.clear();
    emit changed();
}

void StraightenTool::set_angles(TurnAngles angles) {
    angles_ = angles;
    if (!lines_) return;
    solve();
    emit changed();
}

std::vector<StraightenTool::Shown> StraightenTool::shown() const {
    std::vector<Shown> out;
    if (!lines_) return out;
    for (std::size_t i = 0; i < lines_->segments.size(); ++i) {
        const Segment& s = lines_->segments[i];
        const LineSense used = result_ && !struck_[i] ? result_->used[i] : LineSense::neither;
        out.push_back({QLineF(s.from.x(), s.from.y(), s.to.x(), s.to.y()), used, struck_[i]});
    }
    return out;
}

void StraightenTool::toggle(int line) {
    if (!lines_ || line < 0 || line >= static_cast<int>(struck_.size())) return;
    struck_[line] = !struck_[line];
    solve();
    emit changed();
}

std::vector<bool> StraightenTool::wanted() const {
    std::vector<bool> out;
    for (std::size_t i = 0; i < struck_.size(); ++i)
        out.push_back(!struck_[i] && (!result_ || result_->used[i] != LineSense::neither));
    return out;
}

void StraightenTool::solve() {
    FrameLines considered = *lines_;
    for (std::size_t i = 0; i < struck_.size(); ++i)
        if (struck_[i]) considered.lines[i].sense = LineSense::neither;
    try {
        const Straightened solved = straighten(considered, angles_);
        propose(solved, QString("%1 of %2 lines").arg(solved.lines_used).arg(lines_->lines.size()));
    } catch (const std::exception& error) {
        result_.reset();
        text_ = q(error.what());
    }
}

void StraightenTool::propose(const Straightened& solved, const QString& by) {
    result_ = solved;
    const auto angle = [](const char* name, double value, double sigma) {
        return sigma > 0 ? name + (" " + q(figure_text(figures::angle, value, sigma))) : QString();
    };
    QStringList parts{angle("roll", solved.turn.roll_deg, solved.sigma.roll_deg),
                      angle("pitch", solved.turn.pitch_deg, solved.sigma.pitch_deg),
                      angle("yaw", solved.turn.yaw_deg, solved.sigma.yaw_deg)};
    parts.removeAll(QString());
    text_ = QString("Proposed: %1 (one sigma), by %2.").arg(parts.join(", "), by);
}

void StraightenTool::draw(const Vec2& from, const Vec2& to) {
    if (!lines_) {
        text_ = "Find the lines first; what is drawn counts with them.";
        return emit changed();
    }
    try {
        draw_line(*lines_, from, to);
        struck_.push_back(false);
        solve();
    } catch (const std::exception& error) {
        text_ = q(error.what());
    }
    emit changed();
}

void StraightenTool::level(const std::vector<Vec2>& corners, double mark_px, const FrameDevelopment& development) {
    forget();
    try {
        Straightened solved;
        const RectangleTurn r = level_by_corners(corners, mark_px, development);
        solved.turn = r.turn;
        solved.sigma = r.sigma;
        propose(solved, "four corners, each marked to " + q(figure_text(figures::place, mark_px)));
    } catch (const std::exception& error) {
        text_ = q(error.what());
    }
    emit changed();
}

}  // namespace optrel
