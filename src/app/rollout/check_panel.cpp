// SPDX-License-Identifier: GPL-3.0-or-later
#include "rollout/check_panel.h"

#include <QHBoxLayout>
#include <QPointer>
#include <map>

#include "jobs.h"
#include "widgets/place.h"

namespace optrel {

namespace {

Cell kind_cell(const DriftFinding& d) {
    // Hand-set changes are no faults.
    const bool usual = d.kind == Drift::by_hand;
    return {(usual ? "" : "! ") + q(to_string(d.kind)), usual ? Cell::Tone::plain : Cell::Tone::warning};
}

}  // namespace

CheckPanel::CheckPanel(const Parts& parts) : parts_(parts) {
    table_ = new TableOf<DriftFinding>(
        "Findings of the check",
        {{text_column("What", 150), kind_cell},
         {text_column("Frame", 130),
          [](const DriftFinding& d) {
              return Cell(q(d.frame.filename().string()), Cell::Tone::plain, q(d.frame.string()));
          }},
         {text_column("In words", 330),
          [](const DriftFinding& d) { return Cell(q(d.what), Cell::Tone::plain, q(d.what)); }},
         {text_column("What settles it"),
          [](const DriftFinding& d) {
              return Cell(q(what_settles(d.kind)), Cell::Tone::faint, q(what_settles(d.kind)));
          }},
         {figure_column("Rollout", 60),
          [](const DriftFinding& d) { return d.rollout == 0 ? Cell() : figure_cell(d.rollout); }}});
    table_->allow_several();
    check_ = button("&Check all sidecars", "Looks at every frame that the studio knows; nothing is written");
    settle_ = button("Se&ttle", "Writes missing sidecars again as they were, and takes over where moved frames lie");
    connect(check_, &QPushButton::clicked, this, &CheckPanel::check);
    connect(settle_, &QPushButton::clicked, this, &CheckPanel::settle);
    connect(table_, &Table::selection_changed, this, &CheckPanel::refresh_buttons);
    connect(&parts_.work(), &WorkService::found_drift, this, [this](const DriftReport& report) {
        report_ = {};
        take(report);
    });
    connect(table_, &QAbstractItemView::doubleClicked, this, [this] {
        if (const int row = table_->chosen(); row >= 0 && row < static_cast<int>(report_.findings.size()))
            emit parts_.messages().inspect_frame(q(report_.findings[static_cast<std::size_t>(row)].frame.string()));
    });
    summary_ = new QLabel;
    summary_->setWordWrap(true);
    summary_->setAccessibleDescription("Check in short");
    auto* bar = row_of({check_, settle_});
    bar->addWidget(summary_, 1);
    auto* layout = stacked_in(this, 6);
    layout->addLayout(bar);
    layout->addWidget(table_, 1);
    refresh();
}

void CheckPanel::check() {
    const std::filesystem::path after = report_.next;
    if (after.empty()) report_ = {};
    parts_.jobs().run(
        "Checking sidecars",
        [self = QPointer(this), &jobs = parts_.jobs(), after, source = parts_.rollouts().source()](Progress& progress) {
            const auto store = source.open_for_reading();
            // A cancelled check shows its findings so far.
            const DriftReport report = check_drift(*store, after, progress);
            jobs.post([self, report] {
                if (self) self->take(report);
            });
        },
        [] {});
}

void CheckPanel::take(const DriftReport& report) {
    checked_ = true;
    report_.frames += report.frames;
    report_.findings.insert(report_.findings.end(), report.findings.begin(), report.findings.end());
    report_.problems.insert(report_.problems.end(), report.problems.begin(), report.problems.end());
    report_.next = report.next;
    refresh();
}

std::vector<DriftFinding> CheckPanel::to_settle() const {
    std::vector<DriftFinding> out;
    for (const int row : table_->chosen_rows())
        if (row < static_cast<int>(report_.findings.size()))
            out.push_back(report_.findings[static_cast<std::size_t>(row)]);
    if (out.empty()) out = report_.findings;
    std::erase_if(out, [](const DriftFinding& d) { return !settled_without_a_person(d.kind); });
    return out;
}

void CheckPanel::settle() {
    const std::vector<DriftFinding> findings = to_settle();
    if (findings.empty()) return;
    auto settled = std::make_shared<Settled>();
    parts_.jobs().run(
        "Settling",
        [=, source = parts_.rollouts().source()](Progress& progress) {
            Store store = source.open_for_writing();
            *settled = settle_drift(store, findings, progress);
        },
        [this, settled] {
            QString text = QString("%1 settled.").arg(settled->settled);
            if (!settled->failed.empty())
                text += QString(" %1 could not be; the first: %2")
                            .arg(settled->failed.size())
                            .arg(q(settled->failed.front()));
            parts_.tell(text, !settled->failed.empty());
            parts_.frames().reload();
            report_.next.clear();
            check();
        });
}

void CheckPanel::refresh() {
    table_->show_records(report_.findings);
    std::map<Drift, int> counts;
    for (const DriftFinding& d : report_.findings) ++counts[d.kind];
    QStringList kinds;
    for (const auto& [kind, n] : counts) kinds << QString("%1 %2").arg(n).arg(q(to_string(kind)));
    QString text =
        "Finds sidecars that are missing or not as the newest rollout left them, and frames that were moved.";
    if (checked_)
        text = QString("%1 frames looked at: %2.")
                   .arg(report_.frames)
                   .arg(kinds.isEmpty() ? QString("all as the rollouts left them") : kinds.join(", "));
    if (!report_.problems.empty())
        text += QString(" ! %1 folders could not be read; the first: %2")
                    .arg(report_.problems.size())
                    .arg(q(report_.problems.front()));
    if (!report_.next.empty()) text += " It was ended; the rest is still to be looked at.";
    summary_->setText(text);
    check_->setText(report_.next.empty() ? "&Check all sidecars" : "Go on with the &check");
    check_->setAccessibleName(report_.next.empty() ? "Check all sidecars" : "Go on with the check");
    refresh_buttons();
}

void CheckPanel::refresh_buttons() { settle_->setEnabled(!to_settle().empty()); }

}  // namespace optrel
