// SPDX-License-Identifier: GPL-3.0-or-later
#include "attention/attention_place.h"

#include <QFileDialog>

#include "attention/proposal_dialog.h"
#include "base/path_text.h"
#include "base/station.h"
#include "base/times.h"
#include "jobs.h"
#include "rollout/rollout.h"
#include "studio/knowledge.h"
#include "travel/travel_actions.h"

namespace optrel {

AttentionPlace::AttentionPlace(const Parts& parts) : PlaceWidget(theme::Place::attention), parts_(parts) {
    settle_ = button("&Settle", "Goes to where the chosen item is settled", true);
    connect(settle_, &QPushButton::clicked, this, [this] {
        const int row = list_->chosen();
        if (row >= 0 && row < static_cast<int>(items_.size())) items_[row].settle();
    });
    elsewhere_ = button("Search what &others measured…", "Looks for profiles of this lens at the profile exchange");
    connect(elsewhere_, &QPushButton::clicked, this, [this] {
        const int row = list_->chosen();
        if (row >= 0 && row < static_cast<int>(items_.size()) && items_[row].elsewhere) items_[row].elsewhere();
    });
    actions_->addWidget(elsewhere_);
    actions_->addWidget(settle_);
    calm_ = new QLabel(
        "✓ Nothing needs you. Frames are on the current revision, every lens in use has a profile, and the draft "
        "equals what is published.");
    body_->addWidget(calm_);
    list_ = new TableOf<Item>(
        "What needs attention",
        {{text_column("What", 310),
          [](const Item& i) {
              return Cell((i.serious ? "! " : "· ") + i.what, i.serious ? Cell::Tone::serious : Cell::Tone::plain);
          }},
         {figure_column("Frames", 70), [](const Item& i) { return i.count ? figure_cell(i.count) : Cell(); }},
         {text_column("Why, and what it means"), [](const Item& i) { return Cell(i.detail); }},
         {text_column("Settle it by", 232), [](const Item& i) { return Cell(i.action, Cell::Tone::mark); }}});
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
    connect(&parts_.frames(), &FrameBook::knowledge_changed, this, &AttentionPlace::refresh);
    connect(&parts_.sheets(), &SheetBook::changed, this, &AttentionPlace::refresh, Qt::QueuedConnection);
    connect(&parts_.frames(), &FrameBook::knowledge_changed, this, &AttentionPlace::look_closer);
    connect(&parts_.profiles(), &ProfileBook::changed, this, &AttentionPlace::look_closer);
    // Sheets change one after another; what they add up to is looked at when they rest.
    closer_.setSingleShot(true);
    closer_.setInterval(1000);
    connect(&closer_, &QTimer::timeout, this, &AttentionPlace::look_closer);
    connect(&parts_.sheets(), &SheetBook::changed, &closer_, qOverload<>(&QTimer::start), Qt::QueuedConnection);
    // An edit of the draft changes neither what is published nor any profile.
    connect(&parts_.baselines(), &BaselineBook::changed, this,
            [this] { parts_.baselines().current().number == looked_at_ ? refresh() : look_closer(); });
    connect(&parts_.approvals(), &ApprovalDesk::changed, this, &AttentionPlace::refresh);
    connect(&parts_.travel(), &TravelDesk::changed, this, &AttentionPlace::refresh);
    refresh();
    look_closer();
}

void AttentionPlace::look_closer() {
    const int number = ++work_number_;
    auto findings = std::make_shared<std::vector<LintFinding>>();
    auto concerns = std::make_shared<std::vector<ProfileConcern>>();
    auto behind = std::make_shared<std::vector<BehindVersion>>();
    std::set<std::string> in_use;
    for (const Profile& p : parts_.profiles().current()) in_use.insert(p.id + "@" + std::to_string(p.version));
    const auto noted = std::make_shared<std::vector<NotedFrame>>(parts_.sheets().noted_otherwise(in_use));
    const auto knowledge = parts_.frames().knowledge_shared();
    const Revision revision = parts_.baselines().current();
    looked_at_ = revision.number;
    parts_.jobs().run_quietly(
        [=, versions = parts_.profiles().versions_for_worker(), fleet = parts_.entries().fleet(),
         profiles = parts_.profiles().shared()] {
            if (revision.number > 0) *findings = lint(revision, knowledge->groups(), knowledge->bodies);
            *concerns = profile_concerns(versions(), utc_now());
            *behind = behind_versions(*noted, *fleet, profiles);
        },
        [=, this] {
            if (number != work_number_) return;
            published_lint_ = std::move(*findings);
            profile_concerns_ = std::move(*concerns);
            behind_versions_ = std::move(*behind);
            refresh();
        });
}

std::function<void()> AttentionPlace::go(theme::Place place, const QString& view) {
    return [this, place, view] { emit parts_.voice().go_to(static_cast<int>(place), view); };
}

void AttentionPlace::add_frames_missing() {
    if (parts_.frames().any()) return;
    items_.push_back({"No frames are known",
                      "Optrel needs a folder of frames: bodies and lenses are taken from what they report.",
                      "choosing a folder", 0, false, [this] {
                          const QString folder = QFileDialog::getExistingDirectory(this, "Folder with frames");
                          if (!folder.isEmpty()) parts_.frames().add_folder(folder);
                      }});
}

void AttentionPlace::add_missing_roots() {
    for (const auto& [root, frames] : parts_.frames().knowledge().missing_roots)
        items_.push_back(
            {QString("The root %1 has no folder here").arg(q(root)),
             "Other stations see its frames under paths of their own; here they are known, and not to be had.",
             "saying where it lies", frames, true, [this, root = root] {
                 const QString folder = QFileDialog::getExistingDirectory(
                     this, QString("Where the root %1 lies at this station").arg(q(root)));
                 if (folder.isEmpty()) return;
                 parts_.attempt([&] { parts_.frames().place_root(root, folder.toStdString()); });
             }});
}

namespace {

/// Identities of one sort that wait for a person.
struct Waiting {
    int identities = 0, frames = 0;
    QString first;

    void add(const Identity& id, const QString& what) {
        if (first.isEmpty()) first = what + ": " + q(id.proposal.sentence());
        ++identities;
        frames += id.frames;
    }
    QString count(const char* one, const char* many) const {
        return identities == 1 ? QString(one) : QString(many).arg(identities);
    }
    QString and_others() const { return first + (identities > 1 ? "; and others." : "."); }
};

QString reported(const Identity& id) {
    if (id.of == Identity::Of::body)
        return q(id.camera) + (id.serial.empty() ? QString(" without a number") : " " + q(id.serial));
    return id.lens_text.empty() ? "no lens named, from " + q(id.camera) : q(id.lens_text);
}

}  // namespace

void AttentionPlace::add_identities() {
    Waiting bodies, lenses, choices;
    for (const Identity& id : parts_.frames().knowledge().identities) {
        if (id.status != Identity::Status::unclaimed) continue;
        Waiting& sort = id.of == Identity::Of::body ? bodies : lenses;
        (id.proposal.action == ProposedAction::choose ? choices : sort).add(id, reported(id));
    }
    const auto settle = go(theme::Place::fleet, "identities");
    if (bodies.identities)
        items_.push_back({bodies.count("A body is unclaimed", "%1 bodies are unclaimed"),
                          bodies.and_others() + " No body tier reaches their frames.",
                          "accepting or claiming it in Fleet", bodies.frames, true, settle});
    if (choices.identities)
        items_.push_back({choices.count("An identity has to be chosen", "%1 identities have to be chosen"),
                          choices.and_others(), "choosing for them in Fleet", choices.frames, false, settle});
    if (lenses.identities)
        items_.push_back({lenses.count("A lens is unclaimed", "%1 lenses are unclaimed"), lenses.and_others(),
                          "accepting or claiming it in Fleet", lenses.frames, false, settle});
}

void AttentionPlace::add_lenses_without_profile() {
    for (const LensUse& use : parts_.frames().knowledge().lens_use) {
        if (use.without() == 0 || use.lens.empty()) continue;
        QString against;
        if (!use.against.empty())
            against = " Candidates and stand-ins are in Fleet, Bodies by lenses; the nearest was refused: " +
                      q(use.against.front()) + ".";
        items_.push_back({"No profile fits " + q(use.lens),
                          "Its frames are developed without correction of distortion, fringe and falloff." + against,
                          "measuring it on the Bench, or searching what others measured", use.without(), true,
                          go(theme::Place::bench), [this, lens = use.lens] {
                              ExchangeQuestion question;
                              question.lens = lens;
                              search_exchange(parts_, this, question);
                          }});
    }
}

void AttentionPlace::add_profile_concerns() {
    for (const ProfileConcern& c : profile_concerns_) {
        if (c.kind == ProfileConcern::Kind::overdue)
            items_.push_back({"A profile is due again: " + q(c.name), q(c.sentence), "measuring it again on the Bench",
                              0, false, go(theme::Place::bench)});
        else
            items_.push_back({QString("A profile has %1: ").arg(q(to_string(c.verdict))) + q(c.name), q(c.sentence),
                              "comparing the versions in Lenses", 0, true, go(theme::Place::lenses)});
    }
}

void AttentionPlace::add_draft() {
    if (const int changes = parts_.baselines().pending_changes())
        items_.push_back(
            {"The draft is not published",
             QString(changes == 1 ? "One change waits in Baselines; no frame gets it until it is published."
                                  : "%1 changes wait in Baselines; no frame gets them until they are published.")
                 .replace("%1", QString::number(changes)),
             "publishing it in Baselines", 0, false, go(theme::Place::baselines)});
    for (const Conflict& c : find_conflicts(parts_.baselines().draft()))
        items_.push_back({"Two tiers are in conflict", q(c.sentence()), "mending it in Baselines", 0, true,
                          go(theme::Place::baselines)});
}

void AttentionPlace::add_lint() {
    struct Found {
        int findings = 0, frames = 0;
        QString first;
    };
    std::map<LintRule, Found> rules;
    for (const LintFinding& f : published_lint_) {
        Found& found = rules[f.rule];
        if (found.findings++ == 0) found.first = q(f.sentence);
        found.frames += f.frames;
    }
    for (const auto& [rule, found] : rules) {
        QString what = QString("Revision %1: %2").arg(parts_.baselines().current().number).arg(q(to_string(rule)));
        if (found.findings > 1) what += QString(" (%1 times)").arg(found.findings);
        items_.push_back({what, found.first, "mending the draft in Baselines", found.frames, false,
                          go(theme::Place::baselines, "lint")});
    }
}

void AttentionPlace::add_sidecars() {
    if (const int unreadable = parts_.sheets().unreadable())
        items_.push_back({"Sidecars that cannot be read",
                          "They are damaged or were written by something else; Optrel leaves them as they are.",
                          "looking at them in Inspect", unreadable, true, go(theme::Place::inspect)});
    for (const BehindVersion& b : behind_versions_)
        items_.push_back({QString("Frames behind a lens profile: %1 → %2").arg(q(b.before), q(b.after)),
                          QString("They were rolled out with the first and get the second now: places of their "
                                  "pictures move by up to %1 px.")
                              .arg(b.largest_px, 0, 'f', 2),
                          "rehearsing in Rollout", b.frames, false, go(theme::Place::rollout)});
    if (const int behind = parts_.sheets().behind(parts_.baselines().current().number))
        items_.push_back({QString("Frames behind revision %1").arg(parts_.baselines().current().number),
                          "They still have an older baseline, or none.", "rehearsing in Rollout", behind, false,
                          go(theme::Place::rollout)});
}

void AttentionPlace::add_rollouts() {
    std::vector<RolloutRecord> rollouts;
    parts_.attempt([&] { rollouts = parts_.rollouts().list(); });
    for (const RolloutRecord& r : rollouts) {
        if (r.status == RolloutStatus::damaged)
            items_.push_back({QString("The record of rollout %1 is damaged").arg(r.number), q(r.problem),
                              "looking at it in Rollout", 0, true, go(theme::Place::rollout)});
        if (!r.running_at.empty()) continue;
        if (r.status == RolloutStatus::writing || r.status == RolloutStatus::rolling_back)
            items_.push_back({QString("Rollout %1 was stopped half-way").arg(r.number),
                              "Every sidecar is whole; it can go on or be taken back.", "going on in Rollout", r.frames,
                              true, go(theme::Place::rollout)});
    }
}

namespace {

QString label_of(const std::string& field) {
    for (const FieldInfo& f : all_fields())
        if (f.id == field) return q(f.label);
    return q(field);
}

}  // namespace

void AttentionPlace::add_proposals() {
    for (const ChangeProposal& p : parts_.approvals().all()) {
        const QString what = q(to_string(p.kind));
        const QString note = p.note.empty() ? QString() : " “" + q(p.note) + "”";
        const auto look = [this, id = p.id] { judge(id); };
        if (parts_.approvals().may_judge(p))
            items_.push_back({QString("%1 proposes a %2").arg(q(p.author), what),
                              q(p.subject) + "." + note + " It waits for a second person.",
                              "approving it or sending it back", 0, true, look});
        else if (p.state == ProposalState::open)
            items_.push_back({QString("Your %1 waits for a second person")
                                  .arg(what)
                                  .replace("Your", p.mine ? "Your" : q(p.author) + "'s"),
                              q(p.subject) + "." + note + " Somebody who approves has to look at it.", "looking at it",
                              0, false, look});
        else if (p.state == ProposalState::sent_back && p.mine && still_waits(p))
            items_.push_back({QString("%1 sent your %2 back").arg(q(p.judge), what),
                              "“" + q(p.remark) + "”" + (p.field.empty() ? QString() : " (" + label_of(p.field) + ")"),
                              "mending the draft and proposing it again", 0, true, go(theme::Place::baselines)});
    }
}

/// Until something newer of the same kind was proposed.
bool AttentionPlace::still_waits(const ChangeProposal& p) const {
    for (const ChangeProposal& newer : parts_.approvals().all())
        if (newer.id > p.id && newer.kind == p.kind && newer.author == p.author) return false;
    return true;
}

/// As people know it: tiers and profiles by their names, fields by their labels.
QString AttentionPlace::subject_of(const Remark& r) const {
    if (r.kind == "tier")
        for (const Tier& t : parts_.baselines().draft().tiers)
            if (t.id == r.subject) return q(t.name);
    if (r.kind == "profile")
        for (const Profile& p : parts_.profiles().all())
            if (p.id == r.subject) return q(p.name);
    if (r.kind == "frame") return q(std::filesystem::path(path_from_text(r.subject)).filename().string());
    return q(r.subject);
}

void AttentionPlace::add_remarks() {
    for (const Remark& r : parts_.approvals().remarks())
        items_.push_back(
            {QString("A remark on the %1 %2").arg(q(r.kind), subject_of(r)),
             q(r.author) + ": “" + q(r.words) + "”" + (r.field.empty() ? QString() : " (" + label_of(r.field) + ")"),
             "settling it", 0, false,
             [this, id = r.id] { parts_.attempt([&] { parts_.approvals().settle_remark(id); }); }});
}

void AttentionPlace::add_bundles() {
    for (const FoundBundle& b : parts_.travel().found())
        items_.push_back({"A bundle came with a folder: " + q(b.path.filename().string()),
                          "It lies in " + q(b.path.parent_path().string()) +
                              " and brings what is not here. Nothing of it is taken before you looked at it.",
                          "looking at it", 0, false, [this, path = b.path] { open_bundle(parts_, this, path, true); }});
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
    items_.clear();
    add_frames_missing();
    add_missing_roots();
    add_identities();
    add_lenses_without_profile();
    add_profile_concerns();
    add_draft();
    add_lint();
    add_sidecars();
    add_rollouts();
    add_proposals();
    add_remarks();
    add_bundles();
    list_->show_records(items_);
    calm_->setVisible(items_.empty());
    list_->setVisible(!items_.empty());
    settle_->setVisible(!items_.empty());
    if (list_->chosen() < 0) list_->choose(0);
    show_why();
}

void AttentionPlace::show_why() {
    const int row = list_->chosen();
    const bool there = row >= 0 && row < static_cast<int>(items_.size());
    settle_->setEnabled(there);
    elsewhere_->setVisible(there && items_[row].elsewhere);
    why_->setText(there ? items_[row].detail + " Settle it by " + items_[row].action + "." : QString());
}

}  // namespace optrel
