// SPDX-License-Identifier: GPL-3.0-or-later
#include "attention/attention_place.h"

#include <QFileDialog>
#include <algorithm>
#include <optional>

#include "attention/proposal_dialog.h"
#include "jobs.h"
#include "optics/profile_kind.h"
#include "sensor/noise_kind.h"
#include "sharing/sharing_actions.h"
#include "studio/fleet/fingerprint_claims.h"

namespace optrel {

AttentionPlace::AttentionPlace(const Parts& parts) : PlaceWidget(theme::Place::attention), parts_(parts) {
    settle_ = button("&Settle", "Goes to where the chosen item is settled", true);
    connect(settle_, &QPushButton::clicked, this, [this] {
        if (chosen()) settle(AttentionItem(*chosen()));  // a copy, because settling refills the list
    });
    elsewhere_ = button("Search what &others measured…", "Looks for profiles of this lens at the profile exchange");
    connect(elsewhere_, &QPushButton::clicked, this, [this] {
        if (chosen()) search_elsewhere(AttentionItem(*chosen()));
    });
    actions_->addWidget(elsewhere_);
    actions_->addWidget(settle_);
    calm_ = new QLabel(
        "✓ Nothing needs you. Frames are on the current revision, every lens in use has a profile, and the draft "
        "equals what is published.");
    body_->addWidget(calm_);
    list_ = new TableOf<AttentionItem>(
        "What needs attention",
        {{text_column("What", 310),
          [](const AttentionItem& i) {
              return Cell((i.serious ? "! " : "· ") + q(i.what), i.serious ? Cell::Tone::serious : Cell::Tone::plain);
          }},
         {figure_column("Frames", 70),
          [](const AttentionItem& i) { return i.frames ? figure_cell(i.frames) : Cell(); }},
         {text_column("Why, and what it means"), [](const AttentionItem& i) { return Cell(q(i.why)); }},
         {text_column("Settle it by", 232),
          [](const AttentionItem& i) { return Cell(q(i.settle_by), Cell::Tone::mark); }}});
    list_->wrap_rows();
    connect(list_, &QAbstractItemView::doubleClicked, settle_, &QPushButton::click);
    connect(list_, &QAbstractItemView::activated, settle_, &QPushButton::click);
    connect(list_, &Table::chosen_changed, this, [this] { show_why(); });
    body_->addWidget(list_, 1);
    why_ = new QLabel;
    why_->setWordWrap(true);
    why_->setMinimumHeight(38);
    why_->setAlignment(Qt::AlignTop | Qt::AlignLeft);
    body_->addWidget(why_);
    connect(&parts_.frames(), &FrameModel::knowledge_changed, this, &AttentionPlace::refresh);
    connect(&parts_.sheets(), &SheetModel::changed, this, &AttentionPlace::refresh, Qt::QueuedConnection);
    connect(&parts_.frames(), &FrameModel::knowledge_changed, this, &AttentionPlace::look_closer);
    connect(&parts_.profiles(), &ProfileModel::changed, this, [this] {
        records_read_ = false;
        look_closer();
    });
    // Sheets change in quick succession; their effects are computed after a pause.
    closer_.setSingleShot(true);
    closer_.setInterval(1000);
    connect(&closer_, &QTimer::timeout, this, &AttentionPlace::look_closer);
    connect(&parts_.sheets(), &SheetModel::changed, &closer_, qOverload<>(&QTimer::start), Qt::QueuedConnection);
    // An edit of the draft changes neither the published revision nor any profile.
    connect(&parts_.baselines(), &BaselineModel::changed, this,
            [this] { parts_.baselines().current().number == looked_at_ ? refresh() : look_closer(); });
    connect(&parts_.approvals(), &ApprovalService::changed, this, &AttentionPlace::refresh);
    connect(&parts_.sharing(), &SharingService::changed, this, &AttentionPlace::refresh);
    refresh();
    look_closer();
}

void AttentionPlace::showEvent(QShowEvent* event) {
    PlaceWidget::showEvent(event);
    if (std::any_of(items_.begin(), items_.end(),
                    [](const AttentionItem& item) { return item.kind == AttentionKind::fingerprint; }))
        closer_.start();
}

void AttentionPlace::look_closer() {
    const int number = ++work_number_;
    auto findings = std::make_shared<AttentionFindings>();
    const auto versions = parts_.profiles().shared();
    const auto noted =
        std::make_shared<const std::vector<NotedFrame>>(parts_.sheets().noted_otherwise(current_versions(*versions)));
    const Revision published = parts_.baselines().current();
    if (published.number != looked_at_) records_read_ = false;
    looked_at_ = published.number;
    // Reading all documents of the store takes longer than the rest, and a changed sidecar changes none of them.
    const bool read_records = !records_read_;
    const StoreSource source = parts_.baselines().source();
    parts_.jobs().run_quietly(
        [=, known = StoreRecords{findings_.damaged_records, findings_.due},
         knowledge = parts_.frames().knowledge_shared(), fleet = parts_.entries().fleet()] {
            const auto store = source.open_for_reading();
            *findings = optrel::look_closer(published, *knowledge, *fleet, versions, *noted,
                                            read_records ? store_records(*store) : known);
            findings->unmatched_frames = remembered_unmatched(*store, *fleet);
        },
        [=, this] {
            if (number != work_number_) return;
            findings_ = std::move(*findings);
            records_read_ = true;
            refresh();
        });
}

void AttentionPlace::go(theme::Place place, const QString& view) {
    emit parts_.messages().go_to(static_cast<int>(place), view);
}

void AttentionPlace::go_to_measure(const std::string& kind) {
    const bool has_runs = kind == lens_profile_kind().id || kind == noise_kind().id;
    go(has_runs ? theme::Place::bench : theme::Place::fleet);
}

const AttentionItem* AttentionPlace::chosen() const {
    const int row = list_->chosen();
    return row >= 0 && row < static_cast<int>(items_.size()) ? &items_[static_cast<std::size_t>(row)] : nullptr;
}

void AttentionPlace::settle(const AttentionItem& item) {
    switch (item.kind) {
        case AttentionKind::no_frames: return choose_folder_of_frames();
        case AttentionKind::missing_root: return place_root(item.subject);
        case AttentionKind::unclaimed_body:
        case AttentionKind::identity_choice:
        case AttentionKind::fingerprint:
        case AttentionKind::unclaimed_lens: return go(theme::Place::fleet, "identities");
        case AttentionKind::no_profile: return go(theme::Place::bench);
        case AttentionKind::measurement_due: return go_to_measure(item.subject);
        case AttentionKind::profile_differs: return go(theme::Place::lenses);
        case AttentionKind::draft:
        case AttentionKind::conflict:
        case AttentionKind::proposal_sent_back: return go(theme::Place::baselines);
        case AttentionKind::lint: return go(theme::Place::baselines, "lint");
        case AttentionKind::unreadable_sidecar: return go(theme::Place::inspect);
        case AttentionKind::damaged_record:
            return go(item.subject == "revision" ? theme::Place::baselines : theme::Place::lenses);
        case AttentionKind::behind_profile:
        case AttentionKind::behind_revision:
        case AttentionKind::damaged_rollout:
        case AttentionKind::stopped_rollout: return go(theme::Place::rollout);
        case AttentionKind::proposal_to_judge:
        case AttentionKind::proposal_waits: return judge(item.number);
        case AttentionKind::remark: parts_.attempt([&] { parts_.approvals().settle_remark(item.number); }); return;
        case AttentionKind::bundle: open_bundle(parts_, this, item.subject, true);
    }
}

void AttentionPlace::search_elsewhere(const AttentionItem& item) {
    ExchangeQuestion question;
    question.lens = item.subject;
    search_exchange(parts_, this, question);
}

void AttentionPlace::choose_folder_of_frames() {
    const QString folder = QFileDialog::getExistingDirectory(this, "Folder with frames");
    if (!folder.isEmpty()) parts_.frames().add_folder(folder);
}

void AttentionPlace::place_root(const std::string& root) {
    const QString folder =
        QFileDialog::getExistingDirectory(this, QString("Where the root %1 lies at this station").arg(q(root)));
    if (folder.isEmpty()) return;
    parts_.attempt([&] { parts_.frames().place_root(root, folder.toStdString()); });
}

void AttentionPlace::judge(int id) {
    parts_.approvals().look_at(id, [this, id](const ProposalView& view) {
        ProposalDialog dialog(parts_, view, parts_.approvals().may_judge(view.proposal), this);
        if (dialog.exec() != QDialog::Accepted) return;
        parts_.attempt([&] {
            if (dialog.answer() == ProposalDialog::Answer::approve) {
                parts_.tell(q(parts_.approvals().approve(id, dialog.remark())));
                parts_.baselines().reload();
                parts_.profiles().reload();
            } else {
                parts_.approvals().send_back(id, dialog.remark(), dialog.field());
                parts_.tell(QString("Proposal %1 is sent back to %2.").arg(id).arg(q(view.proposal.author)));
            }
        });
    });
}

void AttentionPlace::refresh() {
    AttentionFacts facts;
    facts.any_frames = parts_.frames().any();
    facts.fleet = &parts_.frames().knowledge();
    facts.current = &parts_.baselines().current();
    facts.draft = &parts_.baselines().draft();
    facts.profiles = &parts_.profiles().all();
    facts.findings = &findings_;
    facts.fingerprinted = parts_.profiles().bodies().fingerprinted;
    facts.pending_changes = parts_.baselines().pending_changes();
    facts.unreadable_sidecars = parts_.sheets().unreadable();
    facts.frames_behind = parts_.sheets().behind(facts.current->number);
    parts_.attempt([&] { facts.rollouts = parts_.rollouts().list(); });
    facts.proposals = parts_.approvals().all();
    facts.may_approve = parts_.approvals().may_approve();
    facts.remarks = parts_.approvals().remarks();
    facts.bundles = parts_.sharing().found();
    // What was chosen stays chosen when something is found out meanwhile.
    std::optional<AttentionItem> before;
    if (const AttentionItem* item = chosen()) before = *item;
    items_ = attention(facts);
    list_->show_records(items_);
    const auto again = std::find_if(items_.begin(), items_.end(), [&](const AttentionItem& item) {
        return before && item.kind == before->kind && item.what == before->what && item.subject == before->subject &&
               item.number == before->number;
    });
    if (again != items_.end()) list_->choose(static_cast<int>(again - items_.begin()));
    calm_->setVisible(items_.empty());
    list_->setVisible(!items_.empty());
    settle_->setVisible(!items_.empty());
    if (list_->chosen() < 0) list_->choose(0);
    show_why();
}

void AttentionPlace::show_why() {
    const AttentionItem* item = chosen();
    settle_->setEnabled(item);
    elsewhere_->setVisible(item && item->kind == AttentionKind::no_profile);
    why_->setText(item ? q(item->why) + " Settle it by " + q(item->settle_by) + "." : QString());
}

}  // namespace optrel
