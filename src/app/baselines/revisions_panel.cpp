// SPDX-License-Identifier: GPL-3.0-or-later
#include "baselines/revisions_panel.h"

#include <QHBoxLayout>
#include <QInputDialog>
#include <QMessageBox>
#include <QPushButton>
#include <QVBoxLayout>

#include "studio/claim.h"
#include "widgets/place.h"

namespace optrel {

RevisionsPanel::RevisionsPanel(DraftView& view, QWidget* parent) : QWidget(parent), view_(view) {
    list_ = new Table(
        "Revisions",
        {{"No.", true, false, 34}, {"When", false, false, 80}, {"Who", false, false, 58}, {"Note", false, false, 0}});
    changes_ = new Table("Differences",
                         {{"Tier, field", false, false, 0}, {"Before", true, false, 76}, {"After", true, false, 76}});
    list_->wrap_rows();
    changes_->wrap_rows();
    with_ = new QComboBox;
    with_->setAccessibleName("Compare with");
    return_ =
        button("&Return to it…",
               "Publishes what the chosen revision said as a new revision; unpublished changes stay in the draft");
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
    connect(return_, &QPushButton::clicked, this, &RevisionsPanel::return_to);
    connect(&view_, &DraftView::draft_changed, this, &RevisionsPanel::refresh);
    refresh();
}

void RevisionsPanel::refresh() {
    const DraftView::Parts& parts = view_.parts();
    if (read_ != parts.baselines().current().number) {
        parts.attempt([&] { revisions_ = parts.baselines().revisions(); });
        read_ = parts.baselines().current().number;
        std::vector<Row> rows;
        for (const Revision& r : revisions_)
            rows.push_back({Cell(QString::number(r.number), r.number),
                            Cell(q(r.time.substr(0, 10)), Cell::Tone::plain, q(r.time)), Cell(q(r.author)),
                            Cell(r.note.empty() ? QString("no note") : q(r.note),
                                 r.note.empty() ? Cell::Tone::faint : Cell::Tone::plain)});
        list_->set_rows(std::move(rows));
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
    std::vector<Row> rows;
    if (there) {
        const Revision* other = &view_.parts().baselines().draft();
        for (const Revision& r : revisions_)
            if (r.number == with_->currentData().toInt()) other = &r;
        // The older one is "before", the draft is always the newest.
        const bool swap = other->number != 0 && other->number < revisions_[row].number;
        for (const RevisionChange& c : swap ? difference(*other, revisions_[row]) : difference(revisions_[row], *other))
            // A new tier is said by its name already; its conditions need not be said again.
            rows.push_back({Cell(q(c.tier) + (c.field.empty() ? QString() : ": " + q(c.field))),
                            Cell(q(c.before), Cell::Tone::faint),
                            Cell(c.field.empty() && c.before == "no tier" ? QString("new tier") : q(c.after),
                                 Cell::Tone::mark, q(c.after))});
        if (rows.empty()) rows.push_back({Cell("no difference", Cell::Tone::faint), Cell(), Cell()});
    }
    changes_->set_rows(std::move(rows));
}

void RevisionsPanel::return_to() {
    const int row = list_->chosen();
    if (row < 0 || row >= static_cast<int>(revisions_.size())) return;
    const int number = revisions_[row].number;
    bool ok = false;
    const QString note = QInputDialog::getText(this, "Return to a revision",
                                               QString("Revision %1 is published again as a new one. Why:").arg(number),
                                               QLineEdit::Normal, "", &ok);
    if (!ok) return;
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
        const StoredBaselines::Returned r = parts.baselines().return_to(number, note.toStdString(), then);
        parts.tell(QString("Revision %1 says again what revision %2 said. Rehearse it in Rollout.%3")
                       .arg(r.revision.number)
                       .arg(number)
                       .arg(r.draft_changes ? QString(" The draft keeps %1 changes against it.").arg(r.draft_changes)
                                            : QString()));
    });
}

}  // namespace optrel
