// SPDX-License-Identifier: GPL-3.0-or-later
#include "rollout/history_panel.h"

#include <QElapsedTimer>
#include <QPointer>
#include <algorithm>

#include "jobs.h"
#include "rollout/rollout_cells.h"
#include "widgets/place.h"

namespace optrel {

namespace {

constexpr int between_looks_ms = 3000;

bool look_alike(const RolloutRecord& a, const RolloutRecord& b) {
    return a.number == b.number && a.status == b.status && a.running_at == b.running_at;
}

}  // namespace

HistoryPanel::HistoryPanel(const Parts& parts) : parts_(parts) {
    build();
    next_look_.setSingleShot(true);
    connect(&next_look_, &QTimer::timeout, this, &HistoryPanel::look);
    next_look_.start(between_looks_ms);
    refresh();
}

void HistoryPanel::build() {
    table_ = new TableOf<RolloutRecord>(
        "History",
        {{figure_column("No.", 44), [](const RolloutRecord& r) { return figure_cell(r.number); }},
         {figure_column("Rev.", 40),
          unless_damaged([](const RolloutRecord& r) { return r.revision == 0 ? Cell() : figure_cell(r.revision); })},
         {figure_column("Frames", 60), unless_damaged([](const RolloutRecord& r) { return figure_cell(r.frames); })},
         {text_column("Over"),
          unless_damaged([](const RolloutRecord& r) { return Cell(scope_of(r), Cell::Tone::plain, scope_of(r)); })},
         {text_column("By", 76), unless_damaged([](const RolloutRecord& r) {
              return Cell(q(r.author), Cell::Tone::plain,
                          q(r.author) + (r.station.empty() ? "" : " at " + q(r.station)));
          })},
         {text_column("When, local", 124), unless_damaged([](const RolloutRecord& r) { return time_cell(r.time); })},
         {text_column("Status", 96), status_cell}});
    back_ =
        button("Roll &back", "Restores the sidecars of the chosen rollout byte for byte; those changed since are kept");
    resume_ = button("&Go on", "Continues a rollout or a roll back that was stopped");
    part_ = button("Roll back par&t…",
                   "Restores the sidecars of some frames of the chosen rollout, as a rollout of its own");
    again_ = button("Roll out agai&n", "Rolls out again what was rolled back; sidecars changed since are kept");
    difference_ = button("&Difference", "Shows what the chosen rollout changed, field by field and frame by frame");
    const auto asks = [this](QPushButton* with, void (HistoryPanel::*what)(int)) {
        connect(with, &QPushButton::clicked, this, [this, what] { emit(this->*what)(table_->chosen()); });
    };
    asks(back_, &HistoryPanel::back_asked);
    asks(part_, &HistoryPanel::part_asked);
    asks(again_, &HistoryPanel::again_asked);
    asks(difference_, &HistoryPanel::difference_asked);
    asks(resume_, &HistoryPanel::resume_asked);
    connect(table_, &Table::chosen_changed, this, &HistoryPanel::refresh_buttons);
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->addWidget(heading("History"));
    layout->addWidget(table_, 1);
    layout->addLayout(row_of({difference_, resume_, back_, part_, again_}));
}

const RolloutRecord* HistoryPanel::at(int row) const {
    return row >= 0 && row < static_cast<int>(records_.size()) ? &records_[row] : nullptr;
}

void HistoryPanel::refresh_buttons(int row) {
    const RolloutRecord* r = at(row);
    const RolloutStatus status = r ? r->status : RolloutStatus::damaged;
    const bool there = status != RolloutStatus::damaged && status != RolloutStatus::preparing;
    // A running rollout belongs to the station that is working on it.
    const bool idle = r && r->running_at.empty();
    back_->setEnabled(idle && status != RolloutStatus::rolled_back && status != RolloutStatus::damaged);
    part_->setEnabled(idle && there && status != RolloutStatus::rolled_back);
    again_->setEnabled(idle && status == RolloutStatus::rolled_back && r->frames > 0);
    difference_->setEnabled(there);
    resume_->setEnabled(idle && (status == RolloutStatus::writing || status == RolloutStatus::rolling_back));
}

void HistoryPanel::show(std::vector<RolloutRecord> records) {
    records_ = std::move(records);
    table_->show_records(records_);
    refresh_buttons(table_->chosen());
}

void HistoryPanel::refresh() {
    std::vector<RolloutRecord> records;
    if (parts_.attempt([&] { records = parts_.rollouts().list(); })) show(std::move(records));
}

void HistoryPanel::look() {
    if (!isVisible()) return next_look_.start(between_looks_ms);
    auto found = std::make_shared<std::optional<std::vector<RolloutRecord>>>();
    auto took = std::make_shared<qint64>(0);
    parts_.jobs().run_quietly(
        [found, took, source = parts_.rollouts().source()] {
            QElapsedTimer clock;
            clock.start();
            try {
                *found = source.open_for_reading()->rollouts().list();
            } catch (const std::exception&) {
                // The store cannot be reached or is locked; other parts report that.
            }
            *took = clock.elapsed();
        },
        [panel = QPointer<HistoryPanel>(this), found, took] {
            if (!panel) return;
            // Reading a long history takes time, so it is read less often.
            panel->next_look_.start(std::max<int>(between_looks_ms, static_cast<int>(20 * *took)));
            if (*found && !std::equal((*found)->begin(), (*found)->end(), panel->records_.begin(),
                                      panel->records_.end(), look_alike))
                panel->show(std::move(**found));
        });
}

}  // namespace optrel
