// SPDX-License-Identifier: GPL-3.0-or-later
#include "baselines/baselines_place.h"

#include <QSplitter>

#include "base/choose.h"
#include "baselines/answers_panel.h"
#include "baselines/lint_panel.h"
#include "baselines/matrix_panel.h"
#include "baselines/pin_dialog.h"
#include "baselines/ramp_panel.h"
#include "baselines/revisions_panel.h"
#include "baselines/sets_panel.h"
#include "baselines/tier_panel.h"
#include "reach/reach_dialog.h"
#include "remarks/ask_remark.h"
#include "sharing/sharing_actions.h"
#include "studio/fleet/claim.h"

namespace optrel {

BaselinesPlace::BaselinesPlace(const Parts& parts) : PlaceWidget(theme::Place::baselines), parts_(parts), view_(parts) {
    publish_ = button("&Publish revision…",
                      "Makes the draft an immutable revision; frames change only when it is rolled out", true);
    connect(publish_, &QPushButton::clicked, this, &BaselinesPlace::ask_to_publish);
    auto* share = button("S&hare", "Bundles: what a tier or a set needs, or a whole baseline, for another studio");
    auto* menu = new QMenu(share);
    connect(menu, &QMenu::aboutToShow, this, [this, menu] { fill_share_menu(*menu); });
    share->setMenu(menu);
    state_ = new QLabel;
    state_->setObjectName("faint");
    actions_->addWidget(state_);
    actions_->addWidget(share);
    actions_->addWidget(publish_);

    tiers_ = new TierPanel(view_);
    sets_ = new SetsPanel(view_);
    matrix_ = new MatrixPanel(view_);
    ramp_ = new RampPanel(view_);
    trace_ = new TracePanel(view_);
    probe_ = new ProbePanel(view_);
    lint_ = new LintPanel(view_);
    revisions_ = new RevisionsPanel(view_);
    left_ = new QTabWidget;
    left_->setDocumentMode(true);
    left_->addTab(tiers_, "Tiers");
    left_->addTab(sets_, "Sets");
    right_ = new QTabWidget;
    right_->setDocumentMode(true);
    right_->addTab(trace_, "Trace");
    right_->addTab(probe_, "Probe");
    right_->addTab(lint_, "Lint");
    right_->addTab(revisions_, "Revisions");
    auto* centre = new QSplitter(Qt::Vertical);
    centre->addWidget(matrix_);
    centre->addWidget(ramp_);
    centre->setSizes({380, 210});
    auto* across = new QSplitter(Qt::Horizontal);
    across->addWidget(left_);
    across->addWidget(centre);
    across->addWidget(right_);
    across->setSizes({322, 562, 284});
    across->setStretchFactor(1, 1);
    body_->addWidget(across, 1);

    connect(matrix_, &MatrixPanel::cell_edited, this, &BaselinesPlace::edit_cell);
    connect(lint_, &LintPanel::counted, this,
            [this](int n) { right_->setTabText(2, n ? QString("Lint (%1)").arg(n) : QString("Lint")); });
    connect(&view_, &DraftView::draft_changed, this, &BaselinesPlace::refresh);
    refresh();
    tiers().choose(0);
}

Table& BaselinesPlace::matrix() { return matrix_->table(); }
Table& BaselinesPlace::tiers() { return tiers_->tiers(); }
Table& BaselinesPlace::pins() { return tiers_->pins(); }
Table& BaselinesPlace::trace() { return trace_->table(); }

void BaselinesPlace::refresh() {
    const Revision& draft = parts_.baselines().draft();
    if (parts_.frames().any() || !parts_.entries().bodies().empty() || !draft.tiers.empty() || !draft.sets.empty() ||
        parts_.baselines().current().number > 0)
        show_empty(std::nullopt);
    else
        show_empty(
            add_frames(parts_.frames(),
                       "A baseline says what frames start from: by studio, model and body, at this or that ISO, with "
                       "the rule that won for every value.\n\n"
                       "It needs the bodies of the studio: add a folder of their frames first."));
    const int changes = parts_.baselines().pending_changes();
    const int current = parts_.baselines().current().number;
    state_->setText(
        first_of<QString>({{current == 0, "no revision is published yet"},
                           {changes == 0, QString("the draft equals revision %1").arg(current)}},
                          QString(changes == 1 ? "%1 change since revision %2" : "%1 changes since revision %2")
                              .arg(changes)
                              .arg(current)));
    publish_->setEnabled(changes > 0);
    parts_.attempt([this] { alone_ = !parts_.approvals().revision_needs_another(); });
    publish_->setText(alone_ ? "&Publish revision…" : "&Propose revision…");
    publish_->setAccessibleName(publish_->text().remove('&'));
    publish_->setToolTip(alone_ ? "Makes the draft an immutable revision; frames change only when it is rolled out"
                                : "Somebody else has to look at the draft before it becomes a revision");
}

void BaselinesPlace::fill_share_menu(QMenu& menu) {
    menu.clear();
    const auto offer = [&](const QString& text, const QString& what, const QString& title, const PackingList& list) {
        connect(menu.addAction(text), &QAction::triggered, this,
                [=, this] { pack_bundle(parts_, this, list, what, title); });
    };
    if (const Tier* t = view_.tier()) {
        PackingList list;
        list.tiers = {t->id};
        offer("Pack the &tier " + view_.name_of(*t) + "…", "the tier " + view_.name_of(*t), view_.name_of(*t), list);
    }
    if (const PinSet* s = sets_->chosen()) {
        PackingList list;
        list.sets = {s->name};
        offer("Pack the &set " + q(s->name) + "…", "the set " + q(s->name), q(s->name), list);
    }
    if (const int number = parts_.baselines().current().number) {
        PackingList list;
        list.baseline = number;
        const QString name = QString("revision %1").arg(number);
        offer("Pack &revision " + QString::number(number) + ", whole…", "all of " + name, name, list);
    }
    if (!menu.isEmpty()) menu.addSeparator();
    const auto remark = [&](const QString& text, const char* kind, const std::string& subject, const QString& name) {
        connect(menu.addAction(text), &QAction::triggered, this,
                [=, this] { ask_remark(parts_, this, kind, subject, name); });
    };
    if (const Tier* t = view_.tier())
        remark("Re&mark on the tier " + view_.name_of(*t) + "…", "tier", t->id, view_.name_of(*t));
    if (const PinSet* s = sets_->chosen()) remark("Remark on the se&t " + q(s->name) + "…", "set", s->name, q(s->name));
    if (!menu.isEmpty()) menu.addSeparator();
    connect(menu.addAction("Take a &bundle in…"), &QAction::triggered, this, [this] { ask_for_bundle(parts_, this); });
}

void BaselinesPlace::edit_cell(const Subject& subject, const QString& text) {
    parts_.attempt([&] {
        PinDialog dialog(view_, subject, view_.field(), text, this);
        if (dialog.exec() != QDialog::Accepted) return;
        check_sets(dialog.result_draft());
        const std::string tier = dialog.tier_id();
        parts_.baselines().edit("pin from the matrix", dialog.result_draft());
        view_.choose_tier(tier);
    });
}

void BaselinesPlace::ask_to_publish() {
    const int changes = parts_.baselines().pending_changes();
    ask_with_reach(
        parts_.jobs(), parts_.baselines().source(), this,
        {.title = alone_ ? "Publish the draft" : "Propose the draft",
         .heading = QString("Revision %1: %2 change%3")
                        .arg(parts_.baselines().current().number + 1)
                        .arg(changes)
                        .arg(changes == 1 ? "" : "s"),
         .text = "No sidecar is written: frames change when the revision is rolled out.",
         .verb = alone_ ? "&Publish" : "&Propose",
         .note = "What changed, and why",
         .look = [draft = parts_.baselines().draft()](
                     const Store& store, Progress& progress) { return reach_of_revision(store, draft, progress); }},
        [this](const std::string& note) { publish(note); });
}

void BaselinesPlace::publish(const std::string& note) {
    parts_.attempt([&] {
        if (!alone_) {
            const int id = parts_.approvals().propose_draft(note);
            parts_.tell(QString("Proposal %1 waits for somebody who approves; you find it in Attention.").arg(id));
            return;
        }
        const Revision r = parts_.baselines().publish(note);
        parts_.tell(
            QString("Revision %1 is published. Rehearse it in Rollout to see what it would change.").arg(r.number));
    });
}

void BaselinesPlace::show_something() {
    left_->setCurrentIndex(0);
    right_->setCurrentIndex(0);
    for (const Tier& t : view_.resolver().tiers())
        if (t.pins.count(view_.field()) && t.pins.at(view_.field()).is_ramp()) view_.choose_tier(t.id);
    matrix_->choose_cell(0, 6);
}

void BaselinesPlace::show_view(const QString& view) {
    left_->setCurrentIndex(view == "sets" ? 1 : 0);
    right_->setCurrentIndex(
        first_of<int>({{view == "lint", 2}, {view == "revisions", 3}, {view == "probe" || view == "sets", 1}}, 0));
}

void BaselinesPlace::offer_sets(const QString& path) { sets_->offer(path); }

}  // namespace optrel
