// SPDX-License-Identifier: GPL-3.0-or-later
#include "baselines/revisions_panel.h"

#include <QHBoxLayout>
#include <QMessageBox>
#include <QPushButton>
#include <QVBoxLayout>

#include "reach/reach_dialog.h"
#include "studio/fleet/claim.h"
#include "widgets/place.h"

namespace optrel {

RevisionsPanel::RevisionsPanel(DraftView& view, QWidget* parent) : QWidget(parent), view_(view) {
    list_ = new TableOf<Revision>("Revisions",
                                  {{figure_column("No.", 34), [](const Revision& r) { return figure_cell(r.number); }},
                                   {text_column("When", 80), [](const Revision& r) { return day_cell(r.time); }},
                                   {text_column("Who", 58), [](const Revision& r) { return Cell(q(r.author)); }},
                                   {text_column("Note"), [](const Revision& r) {
                                        return r.note.empty() ? Cell("no note", Cell::Tone::faint) : Cell(q(r.note));
                                    }}});
    changes_ = new TableOf<RevisionChange>(
        "Differences",
        {{text_column("Tier, field"),
          [](const RevisionChange& c) {
              // The name of a new tier describes its conditions already.
              if (c.tier.empty()) return Cell("no difference", Cell::Tone::faint);
              return Cell(q(c.tier) + (c.field.empty() ? QString() : ": " + q(c.field)));
          }},
         {figure_column("Before", 76), [](const RevisionChange& c) { return Cell(q(c.before), Cell::Tone::faint); }},
         {figure_column("After", 76), [](const RevisionChange& c) {
              const bool new_tier = c.field.empty() && c.before == "no tier";
              return Cell(new_tier ? QString("new tier") : q(c.after), Cell::Tone::mark, q(c.after));
          }}});
    list_->wrap_rows();
    changes_->wrap_rows();
    with_ = new QComboBox;
    with_->setAccessibleName("Compare with");
    return_ = button("&Return to it…",
                     "Publishes the chosen revision again as a new revision; unpublished changes stay in the "
                     "draft");
    auto* across = new QHBoxLayout;
    across->addWidget(heading("Compared with"));
    across->addWidget(with_, 1);
    auto* layout = stacked_in(this, 3);
    layout->addWidget(list_, 2);
    layout->addWidget(return_, 0, Qt::AlignLeft);
    layout->addLayout(across);
    layout->addWidget(changes_, 3);
    connect(list_, &Table::chosen_changed, this, &RevisionsPanel::compare);
    connect(with_, &QComboBox::currentIndexChanged, this, &RevisionsPanel::compare);
    connect(return_, &QPushButton::clicked, this, &RevisionsPanel::ask_to_return);
    connect(&view_, &DraftView::draft_changed, this, &RevisionsPanel::refresh);
    refresh();
}

void RevisionsPanel::refresh() {
    const DraftView::Parts& parts = view_.parts();
    if (read_ != parts.baselines().current().number) {
        parts.attempt([&] { revisions_ = parts.baselines().revisions(); });
        read_ = parts.baselines().current().number;
        list_->show_records(revisions_);
        const QSignalBlocker quiet(with_);
        with_->clear();
        with_->addItem("the draft", 0);
        for (const Revision& r : revisions_) with_->addItem(QString("revision %1").arg(r.number), r.number);
        if (list_->chosen() < 0) list_->choose(0);
    }
    compare();
}

void RevisionsPanel::compare() {
    const int row = list_->chosen();
    const bool there = row >= 0 && row < static_cast<int>(revisions_.size());
    return_->setEnabled(there && revisions_[row].number != view_.parts().baselines().current().number);
    std::vector<RevisionChange> changes;
    if (there) {
        const Revision* other = &view_.parts().baselines().draft();
        for (const Revision& r : revisions_)
            if (r.number == with_->currentData().toInt()) other = &r;
        // The older revision is "before"; the draft is always the newest.
        const bool swap = other->number != 0 && other->number < revisions_[row].number;
        changes = swap ? difference(*other, revisions_[row]) : difference(revisions_[row], *other);
        if (changes.empty()) changes.emplace_back();
    }
    changes_->show_records(changes);
}

void RevisionsPanel::ask_to_return() {
    const int row = list_->chosen();
    if (row < 0 || row >= static_cast<int>(revisions_.size())) return;
    const int number = revisions_[row].number;
    const DraftView::Parts& parts = view_.parts();
    ask_with_reach(
        parts.jobs(), parts.baselines().source(), this,
        {.title = "Return to a revision",
         .heading = QString("Revision %1 is published again as a new one").arg(number),
         .text = "No sidecar is written: frames change when the revision is rolled out.",
         .verb = "&Return",
         .note = "Why",
         .look = [revision = revisions_[row]](
                     const Store& store, Progress& progress) { return reach_of_revision(store, revision, progress); }},
        [this, number](const std::string& note) { return_to(number, note); });
}

void RevisionsPanel::return_to(int number, const std::string& note) {
    const DraftView::Parts& parts = view_.parts();
    auto then = StoredBaselines::DraftThen::keep;
    if (const int pending = parts.baselines().pending_changes(); pending > 0) {
        QMessageBox ask(QMessageBox::Question, "Return to a revision",
                        QString("The draft has %1 changes of its own. Kept, they come in with the next publishing, "
                                "against revision %2. Keep them in the draft, or drop them?")
                            .arg(pending)
                            .arg(number),
                        QMessageBox::Cancel, this);
        QPushButton* keep = ask.addButton("&Keep them", QMessageBox::AcceptRole);
        QPushButton* drop = ask.addButton("&Drop them", QMessageBox::DestructiveRole);
        ask.setDefaultButton(keep);
        ask.exec();
        if (ask.clickedButton() != keep && ask.clickedButton() != drop) return;
        if (ask.clickedButton() == drop) then = StoredBaselines::DraftThen::follow;
    }
    parts.attempt([&] {
        const StoredBaselines::Returned r = parts.baselines().return_to(number, note, then);
        parts.tell(QString("Revision %1 holds the same as revision %2. Rehearse it in Rollout.%3")
                       .arg(r.revision.number)
                       .arg(number)
                       .arg(r.draft_changes ? QString(" The draft keeps %1 changes against it.").arg(r.draft_changes)
                                            : QString()));
    });
}

}  // namespace optrel
