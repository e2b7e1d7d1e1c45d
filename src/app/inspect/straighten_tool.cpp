// SPDX-License-Identifier: GPL-3.0-or-later
#include "inspect/straighten_tool.h"

#include <QPointer>

#include "base/error.h"
#include "jobs.h"

namespace optrel {

StraightenTool::~StraightenTool() {
    if (finding_) finding_->cancel();
}

void StraightenTool::find(const std::filesystem::path& frame, const Metadata& metadata, const ResolvedFrame& fields,
                          const std::optional<AppliedProfile>& profile, TurnAngles angles) {
    forget();
    angles_ = angles;
    text_ = "Looking for lines …";
    auto progress = std::make_shared<Progress>();
    finding_ = progress;
    auto lines = std::make_shared<std::shared_ptr<FrameLines>>();
    auto problem = std::make_shared<QString>();
    emit changed();
    jobs_.run_quietly(
        [=] {
            try {
                *lines = std::make_shared<FrameLines>(find_lines(frame, metadata, fields, profile, *progress));
            } catch (const Cancelled&) {
            } catch (const std::exception& error) {
                *problem = QString::fromUtf8(error.what());
            }
        },
        [self = QPointer(this), lines, problem, progress] {
            if (!self || self->finding_ != progress) return;
            self->finding_ = nullptr;
            self->text_ = *problem;
            self->lines_ = *lines;
            if (self->lines_) {
                self->struck_.assign(self->lines_->lines.size(), false);
                self->solve();
            }
            emit self->changed();
        });
}

void StraightenTool::forget() {
    if (finding_) finding_->cancel();
    finding_ = nullptr;
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
        result_ = straighten(considered, angles_);
        const Straightened& s = *result_;
        const auto angle = [](const char* name, double value, double sigma) {
            return sigma > 0 ? QString("%1 %2° ± %3°").arg(name).arg(value, 0, 'f', 2).arg(sigma, 0, 'f', 2)
                             : QString();
        };
        QStringList parts{angle("roll", s.turn.roll_deg, s.sigma.roll_deg),
                          angle("pitch", s.turn.pitch_deg, s.sigma.pitch_deg),
                          angle("yaw", s.turn.yaw_deg, s.sigma.yaw_deg)};
        parts.removeAll(QString());
        text_ = QString("Proposed: %1 (one sigma), by %2 of %3 lines.")
                    .arg(parts.join(", "))
                    .arg(s.lines_used)
                    .arg(lines_->lines.size());
    } catch (const std::exception& error) {
        result_.reset();
        text_ = QString::fromUtf8(error.what());
    }
}

}  // namespace optrel
