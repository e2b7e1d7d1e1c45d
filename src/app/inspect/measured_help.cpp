// SPDX-License-Identifier: GPL-3.0-or-later
#include "inspect/measured_help.h"

#include <QPointer>

#include "base/error.h"
#include "jobs.h"

namespace optrel {

MeasuredHelp::~MeasuredHelp() {
    if (running_) running_->cancel();
}

void MeasuredHelp::forget() {
    if (running_) running_->cancel();
    running_ = nullptr;
    proposal_.reset();
    fringes_.clear();
    for (const Kind kind : {Kind::colours, Kind::distortion, Kind::light, Kind::fringes}) emit said(kind, "", false);
}

void MeasuredHelp::ask(Kind kind, std::function<FieldProposal(const Progress&)> work) {
    start(kind,
          [work = std::move(work)](const Progress& progress, Answer& answer) { answer.proposal = work(progress); });
}

void MeasuredHelp::ask_fringes(std::function<std::vector<FringeFound>(const Progress&)> work) {
    start(Kind::fringes,
          [work = std::move(work)](const Progress& progress, Answer& answer) { answer.fringes = work(progress); });
}

void MeasuredHelp::start(Kind kind, std::function<void(const Progress&, Answer&)> work) {
    forget();
    running_ = std::make_shared<Progress>();
    auto answer = std::make_shared<Answer>();
    emit said(kind, "Measuring …", false);
    jobs_.run_quietly(
        [work = std::move(work), answer, progress = running_] {
            try {
                work(*progress, *answer);
            } catch (const Cancelled&) {
            } catch (const std::exception& error) {
                answer->problem = QString::fromUtf8(error.what());
            }
        },
        [self = QPointer(this), kind, answer, progress = running_] {
            if (self && self->running_ == progress) self->finish(kind, *answer);
        });
}

void MeasuredHelp::finish(Kind kind, const Answer& answer) {
    running_ = nullptr;
    proposal_ = answer.proposal;
    fringes_ = answer.fringes;
    if (!answer.problem.isEmpty()) return emit said(kind, answer.problem, false);
    if (proposal_) return emit said(kind, QString::fromStdString(proposal_->text), true);
    QStringList lines;
    for (const FringeFound& f : fringes_) lines << QString::fromStdString(describe(f));
    emit said(kind, lines.isEmpty() ? "No edge shows a colour that neither of its sides has." : lines.join("\n"),
              !lines.isEmpty());
}

}  // namespace optrel
