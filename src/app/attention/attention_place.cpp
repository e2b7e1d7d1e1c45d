#include "attention/attention_place.h"

#include <QFileDialog>

#include "base/times.h"
#include "jobs.h"
#include "rollout/rollout.h"
#include "studio/knowledge.h"

namespace optrel {

AttentionPlace::AttentionPlace(Session& session) : PlaceWidget(theme::Place::attention, session) {
    settle_ = button("&Settle", "Goes to where the chosen item is settled", true);
    connect(settle_, &QPushButton::clicked, this, [this] {
        const int row = list_->chosen();
        if (row >= 0 && row < static_cast<int>(items_.size())) items_[row].settle();
    });
    actions_->addWidget(settle_);
    calm_ = new QLabel(
        "✓ Nothing needs you. Frames are on the current revision, every lens in use has a profile, and the draft "
        "equals what is published.");
    body_->addWidget(calm_);
    list_ = new Table("What needs attention", {{"What", false, false, 310},
                                               {"Frames", true, false, 70},
                                               {"Why, and what it means", false, false, 0},
                                               {"Settle it by", false, false, 232}});
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
    for (const auto signal : {&Session::knowledge_changed, &Session::sheets_changed})
        connect(&session_, signal, this, &AttentionPlace::refresh);
    for (const auto signal : {&Session::knowledge_changed, &Session::profiles_changed})
        connect(&session_, signal, this, &AttentionPlace::look_closer);
    // An edit of the draft changes neither what is published nor any profile.
    connect(&session_, &Session::baselines_changed, this,
            [this] { session_.current().number == looked_at_ ? refresh() : look_closer(); });
    refresh();
    look_closer();
}

void AttentionPlace::look_closer() {
    const int number = ++work_number_;
    auto findings = std::make_shared<std::vector<LintFinding>>();
    auto concerns = std::make_shared<std::vector<ProfileConcern>>();
    const auto knowledge = session_.knowledge_shared();
    const Revision revision = session_.current();
    looked_at_ = revision.number;
    session_.jobs().run_quietly(
        [=, source = session_.store().source()] {
            if (revision.number > 0) *findings = lint(revision, knowledge->groups(), knowledge->bodies);
            *concerns = profile_concerns(source.open(Access::read).profiles().all_versions(), utc_now());
        },
        [=, this] {
            if (number != work_number_) return;
            published_lint_ = std::move(*findings);
            profile_concerns_ = std::move(*concerns);
            refresh();
        });
}

void AttentionPlace::refresh() {
    items_.clear();
    const auto go = [this](theme::Place place) {
        return [this, place] { emit session_.go_to(static_cast<int>(place)); };
    };
    if (!session_.has_frames())
        items_.push_back({"No frames are known",
                          "Optrel needs a folder of frames: bodies and lenses are taken from what they report.",
                          "choosing a folder", 0, false, [this] {
                              const QString folder = QFileDialog::getExistingDirectory(this, "Folder with frames");
                              if (!folder.isEmpty()) session_.add_folder(folder);
                          }});
    const auto go_view = [this](theme::Place place, const QString& view) {
        return [this, place, view] { emit session_.go_to(static_cast<int>(place), view); };
    };
    const FleetKnowledge& known = session_.knowledge();
    int bodies = 0, body_frames = 0, lenses = 0, lens_frames = 0, choices = 0, choice_frames = 0;
    QString first_body, first_lens, first_choice;
    for (const Identity& id : known.identities) {
        if (id.status != Identity::Status::unclaimed) continue;
        const bool choose = id.proposal.action == ProposedAction::choose;
        const bool body = id.of == Identity::Of::body;
        const QString what =
            body ? q(id.camera) + (id.serial.empty() ? QString(" without a number") : " " + q(id.serial))
            : id.lens_text.empty() ? "no lens named, from " + q(id.camera)
                                   : q(id.lens_text);
        QString& first = choose ? first_choice : body ? first_body : first_lens;
        if (first.isEmpty()) first = what + ": " + q(id.proposal.sentence());
        ++(choose ? choices : body ? bodies : lenses);
        (choose ? choice_frames : body ? body_frames : lens_frames) += id.frames;
    }
    const auto count_text = [](int n, const char* one, const char* many) {
        return n == 1 ? QString(one) : QString(many).arg(n);
    };
    if (bodies)
        items_.push_back({count_text(bodies, "A body is unclaimed", "%1 bodies are unclaimed"),
                          first_body + (bodies > 1 ? "; and others" : "") + ". No body tier reaches their frames.",
                          "accepting or claiming it in Fleet", body_frames, true,
                          go_view(theme::Place::fleet, "identities")});
    if (choices)
        items_.push_back({count_text(choices, "An identity has to be chosen", "%1 identities have to be chosen"),
                          first_choice + (choices > 1 ? "; and others." : "."), "choosing for them in Fleet",
                          choice_frames, false, go_view(theme::Place::fleet, "identities")});
    if (lenses)
        items_.push_back({count_text(lenses, "A lens is unclaimed", "%1 lenses are unclaimed"),
                          first_lens + (lenses > 1 ? "; and others." : "."), "accepting or claiming it in Fleet",
                          lens_frames, false, go_view(theme::Place::fleet, "identities")});
    for (const LensUse& use : known.lens_use) {
        if (use.without() == 0 || use.lens.empty()) continue;
        const QString against =
            use.against.empty()
                ? QString()
                : " Candidates and stand-ins are in Fleet, Bodies by lenses; the nearest was refused: " +
                      q(use.against.front()) + ".";
        items_.push_back({"No profile fits " + q(use.lens),
                          "Its frames are developed without correction of distortion, fringe and falloff." + against,
                          "measuring it on the Bench", use.without(), true, go(theme::Place::bench)});
    }
    for (const ProfileConcern& c : profile_concerns_)
        items_.push_back({c.kind == ProfileConcern::Kind::overdue
                              ? "A profile is due again: " + q(c.name)
                              : QString("A profile has %1: ").arg(q(to_string(c.verdict))) + q(c.name),
                          q(c.sentence),
                          c.kind == ProfileConcern::Kind::overdue ? "measuring it again on the Bench"
                                                                  : "comparing the versions in Lenses",
                          0, c.kind != ProfileConcern::Kind::overdue,
                          go(c.kind == ProfileConcern::Kind::overdue ? theme::Place::bench : theme::Place::lenses)});
    const int behind = session_.frames_behind(), unreadable = session_.unreadable_sheets();
    if (unreadable)
        items_.push_back({"Sidecars that cannot be read",
                          "They are damaged or were written by something else; Optrel leaves them as they are.",
                          "looking at them in Inspect", unreadable, true, go(theme::Place::inspect)});
    const int changes = session_.pending_changes();
    if (changes)
        items_.push_back(
            {"The draft is not published",
             QString(changes == 1 ? "One change waits in Baselines; no frame gets it until it is published."
                                  : "%1 changes wait in Baselines; no frame gets them until they are published.")
                 .replace("%1", QString::number(changes)),
             "publishing it in Baselines", 0, false, go(theme::Place::baselines)});
    for (const Conflict& c : find_conflicts(session_.draft()))
        items_.push_back({"Two tiers are in conflict", q(c.sentence()), "mending it in Baselines", 0, true,
                          go(theme::Place::baselines)});
    std::map<LintRule, std::pair<int, int>> rules;  // findings and frames
    std::map<LintRule, QString> first_of_rule;
    for (const LintFinding& f : published_lint_) {
        ++rules[f.rule].first;
        rules[f.rule].second += f.frames;
        if (first_of_rule[f.rule].isEmpty()) first_of_rule[f.rule] = q(f.sentence);
    }
    for (const auto& [rule, n] : rules)
        items_.push_back({QString("Revision %1: %2").arg(session_.current().number).arg(q(to_string(rule))) +
                              (n.first > 1 ? QString(" (%1 times)").arg(n.first) : QString()),
                          first_of_rule[rule], "mending the draft in Baselines", n.second, false,
                          go_view(theme::Place::baselines, "lint")});
    if (behind)
        items_.push_back({QString("Frames behind revision %1").arg(session_.current().number),
                          "They still have an older baseline, or none.", "rehearsing in Rollout", behind, false,
                          go(theme::Place::rollout)});
    std::vector<RolloutRecord> rollouts;
    session_.attempt([&] { rollouts = session_.store().rollouts().list(); });
    for (const RolloutRecord& r : rollouts)
        if (r.status == RolloutStatus::damaged)
            items_.push_back({QString("The record of rollout %1 is damaged").arg(r.number), q(r.problem),
                              "looking at it in Rollout", 0, true, go(theme::Place::rollout)});
        else if (r.status == RolloutStatus::writing || r.status == RolloutStatus::rolling_back)
            items_.push_back({QString("Rollout %1 was stopped half-way").arg(r.number),
                              "Every sidecar is whole; it can go on or be taken back.", "going on in Rollout", r.frames,
                              true, go(theme::Place::rollout)});
    std::vector<Row> rows;
    for (const Item& i : items_)
        rows.push_back({Cell((i.serious ? "! " : "· ") + i.what, i.serious ? Cell::Tone::serious : Cell::Tone::plain),
                        i.count ? Cell(QString::number(i.count), i.count) : Cell(), Cell(i.detail),
                        Cell(i.action, Cell::Tone::mark)});
    list_->set_rows(std::move(rows));
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
    why_->setText(there ? items_[row].detail + " Settle it by " + items_[row].action + "." : QString());
}

}  // namespace optrel
