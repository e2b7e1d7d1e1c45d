// SPDX-License-Identifier: GPL-3.0-or-later
#include "inspect/measured_help.h"

namespace optrel {

void MeasuredHelp::forget() {
    running_.cancel();
    proposal_.reset();
    fringes_.clear();
    for (const Kind kind : {Kind::colours, Kind::distortion, Kind::light, Kind::fringes}) emit said(kind, "", false);
}

void MeasuredHelp::ask(Kind kind, std::function<FieldProposal(const Progress&)> work) {
    start(kind, [work = std::move(work)](const Progress& progress) { return Answer{work(progress), {}}; });
}

void MeasuredHelp::ask_fringes(std::function<std::vector<FringeFound>(const Progress&)> work) {
    start(Kind::fringes, [work = std::move(work)](const Progress& progress) {
        return Answer{std::nullopt, work(progress)};
    });
}

void MeasuredHelp::start(Kind kind, std::function<Answer(const Progress&)> work) {
    forget();
    emit said(kind, "Measuring …", false);
    running_.start(jobs_, std::move(work), [this, kind](std::optional<Answer> answer, const QString& problem) {
        if (answer)
            finish(kind, *answer);
        else
            emit said(kind, problem, false);
    });
}

void MeasuredHelp::finish(Kind kind, const Answer& answer) {
    proposal_ = answer.proposal;
    fringes_ = answer.fringes;
    if (proposal_) return emit said(kind, QString::fromStdString(proposal_->text), true);
    QStringList lines;
    for (const FringeFound& f : fringes_) lines << QString::fromStdString(describe(f));
    emit said(kind, lines.isEmpty() ? "No edge shows a colour that neither of its sides has." : lines.join("\n"),
              !lines.isEmpty());
}

}  // namespace optrel
