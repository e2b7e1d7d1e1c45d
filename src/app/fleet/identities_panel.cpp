// SPDX-License-Identifier: GPL-3.0-or-later
#include "fleet/identities_panel.h"

#include <QHBoxLayout>
#include <QVBoxLayout>
#include <set>

#include "base/choose.h"
#include "fleet/fingerprint_dialog.h"
#include "reach/reach_dialog.h"
#include "shared/claim_dialog.h"
#include "studio/fleet/claim.h"
#include "studio/frames/knowledge.h"
#include "widgets/place.h"

namespace optrel {
namespace {

QString reported_text(const Identity& id) {
    if (id.of == Identity::Of::lens && id.lens_text.empty()) return "no lens, from " + q(id.camera);
    if (id.of == Identity::Of::lens)
        return q(id.lens_text) + (id.serial.empty() ? ", no number" : ", number " + q(id.serial));
    QString text = (id.camera.empty() ? QString("no camera") : q(id.camera)) +
                   (id.serial.empty() ? ", no number" : ", number " + q(id.serial));
    for (const std::string& other : id.other_serials)
        if (other != id.serial) text += ", also " + q(other);
    return text;
}

QString action_text(const Identity& id, const IdentitiesPanel::Parts& parts) {
    switch (id.proposal.action) {
        case ProposedAction::register_new: return "register as new";
        case ProposedAction::claim_for:
            if (const Body* b = parts.entries().fleet()->body(id.proposal.target)) return "claim for " + q(b->label());
            if (const LensEntry* l = parts.entries().fleet()->lens(id.proposal.target))
                return "claim for " + q(l->label());
            return "claim";
        case ProposedAction::choose: return "choose";
        default: return "";
    }
}

/// Adds the acceptance of one identity to a combined edit; each entry once.
void gather(const FleetEdit& one, FleetEdit& all) {
    const auto add = [](const auto& from, auto& to) {
        for (const auto& e : from)
            if (std::none_of(to.begin(), to.end(), [&](const auto& other) { return other.after->id == e.after->id; }))
                to.push_back(e);
    };
    add(one.models, all.models);
    add(one.bodies, all.bodies);
    add(one.lenses, all.lenses);
    add(one.claims, all.claims);
}

}  // namespace

namespace {

bool settled_by_proposal(const Identity& id) {
    return id.status == Identity::Status::unclaimed &&
           (id.proposal.action == ProposedAction::register_new || id.proposal.action == ProposedAction::claim_for);
}

Cell held_cell(const Identity& id) {
    if (id.status == Identity::Status::unclaimed) return {"△ unclaimed", Cell::Tone::warning};
    if (id.status == Identity::Status::assumed) return {"~ assumed"};
    return {"● claimed", Cell::Tone::mark};
}

}  // namespace

IdentitiesPanel::IdentitiesPanel(const Parts& parts, QWidget* parent) : QWidget(parent), parts_(parts) {
    table_ = new TableOf<Identity>(
        "Identities",
        {{text_column("What files report"),
          [](const Identity& id) {
              return Cell(reported_text(id), Cell::Tone::plain, reported_text(id) + "\n" + q(id.example.string()));
          }},
         {text_column("Of", 46),
          [](const Identity& id) { return Cell(id.of == Identity::Of::body ? "body" : "lens"); }},
         {figure_column("Frames", 62), [](const Identity& id) { return figure_cell(id.frames); }},
         {text_column("Status", 96), held_cell},
         {text_column("Held by, or proposed", 290), [this](const Identity& id) { return holder_cell(id); }},
         {text_column("First frame", 92), [](const Identity& id) { return Cell(q(id.first.substr(0, 10))); }},
         {text_column("Last frame", 92), [](const Identity& id) { return Cell(q(id.last.substr(0, 10))); }}});
    accept_ = button("&Accept proposal", "Does what is proposed for the chosen identity", true);
    all_ = button("Accept a&ll proposals",
                  "Does all that is proposed and needs no choice, as one edit that can be undone");
    claim_ = button("&Claim for…", "Ties it to a body or a lens, all of it or only a folder or a time span");
    back_ = button("&Take back…", "Takes back the claims that settle the chosen identity");
    fingerprint_ = button("By &fingerprint…",
                          "Compares frames whose body is not known with the fingerprints of the studio's sensors");
    why_ = new QLabel;
    why_->setWordWrap(true);
    why_->setMinimumHeight(36);
    why_->setAlignment(Qt::AlignTop | Qt::AlignLeft);
    auto* buttons = new QHBoxLayout;
    for (QPushButton* b : {accept_, all_, claim_, back_, fingerprint_}) buttons->addWidget(b);
    buttons->addStretch();
    auto* layout = new QVBoxLayout(this);
    layout->setContentsMargins(0, 6, 0, 0);
    layout->setSpacing(4);
    layout->addLayout(buttons);
    layout->addWidget(table_, 1);
    layout->addWidget(why_);
    connect(table_, &Table::chosen_changed, this, &IdentitiesPanel::refresh_buttons);
    connect(accept_, &QPushButton::clicked, this, &IdentitiesPanel::accept_one);
    connect(all_, &QPushButton::clicked, this, &IdentitiesPanel::accept_all);
    connect(claim_, &QPushButton::clicked, this, &IdentitiesPanel::claim_for);
    connect(back_, &QPushButton::clicked, this, &IdentitiesPanel::take_back);
    connect(fingerprint_, &QPushButton::clicked, this, [this] { look_by_fingerprint(parts_, this); });
    connect(&parts_.frames(), &FrameModel::knowledge_changed, this, &IdentitiesPanel::refresh);
    refresh();
}

const Identity* IdentitiesPanel::chosen() const {
    const int row = table_->chosen();
    return row >= 0 && row < static_cast<int>(parts_.frames().knowledge().identities.size())
               ? &parts_.frames().knowledge().identities[row]
               : nullptr;
}

Cell IdentitiesPanel::holder_cell(const Identity& id) const {
    if (id.status == Identity::Status::unclaimed)
        return {"→ " + action_text(id, parts_), Cell::Tone::mark, q(id.proposal.sentence())};
    QStringList held;
    for (const std::string& t : id.targets) {
        const Body* b = parts_.entries().fleet()->body(t);
        const LensEntry* l = parts_.entries().fleet()->lens(t);
        if (b)
            held << q(b->label());
        else
            held << (l ? q(l->label()) : q(t));
    }
    return {held.join(", ")};
}

void IdentitiesPanel::refresh() {
    const std::vector<Identity>& all = parts_.frames().knowledge().identities;
    const auto unclaimed = std::count_if(all.begin(), all.end(),
                                         [](const Identity& id) { return id.status == Identity::Status::unclaimed; });
    table_->show_records(all);
    emit counted(static_cast<int>(unclaimed));
    if (table_->chosen() < 0) table_->choose(0);
    refresh_buttons();
}

void IdentitiesPanel::refresh_buttons() {
    const Identity* id = chosen();
    accept_->setEnabled(id && settled_by_proposal(*id));
    const auto& all = parts_.frames().knowledge().identities;
    const auto n = std::count_if(all.begin(), all.end(), settled_by_proposal);
    all_->setEnabled(n > 0);
    claim_->setEnabled(
        id && !(id->of == Identity::Of::body ? parts_.entries().bodies().empty() : parts_.entries().lenses().empty()));
    bool claimed = false;
    if (id)
        for (const Claim& c : parts_.entries().fleet()->claims())
            claimed =
                claimed || claim_holds(c, id->example, id->reported, id->targets.empty() ? "" : id->targets.front());
    back_->setEnabled(claimed);
    if (!id)
        why_->setText(
            "No frames are known yet. Add a folder of frames: what they report of bodies and lenses is listed here.");
    else if (id->status == Identity::Status::unclaimed)
        why_->setText("Proposed: " + action_text(*id, parts_) +
                      QString(", for %1 frame%2. Reasons: ").arg(id->frames).arg(id->frames == 1 ? "" : "s") +
                      q(id->proposal.sentence()) + ".");
    else
        why_->setText(
            q(id->why) + ". Seen in " + q(id->folders.empty() ? std::string() : id->folders.front()) +
            (id->folders.size() > 1 ? QString(" and %1 more folders.").arg(id->folders.size() - 1) : QString(".")));
}

/// Few frames are claimed at once, as the table shows; for more, the user is asked.
void IdentitiesPanel::claim_all_of(const std::vector<const Identity*>& identities, const QString& what) {
    FleetEdit all;
    int frames = 0, limit = 0;
    const bool ready = parts_.attempt([&] {
        for (const Identity* id : identities) {
            gather(edit_for(accept(*id, *parts_.entries().fleet())), all);
            frames += id->frames;
        }
        limit = parts_.entries().without_asking();
    });
    if (!ready || all.empty()) return;
    const auto act = [this, what, all](const std::string&) {
        if (parts_.entries().edit(what, all)) parts_.tell(QString("Done: %1. Undo takes it back.").arg(what));
    };
    if (frames <= limit) return act({});
    ask_with_reach(parts_.jobs(), parts_.entries().source(), this,
                   {.title = "Accept what is proposed",
                    .heading = identities.size() == 1 ? "One proposal, of " + reported_text(*identities.front())
                                                      : QString("%1 proposals").arg(identities.size()),
                    .verb = "&Accept",
                    .look = ReachNote::of(all),
                    .claims = true},
                   act);
}

void IdentitiesPanel::accept_one() {
    if (const Identity* id = chosen()) claim_all_of({id}, "accept a proposal");
}

void IdentitiesPanel::accept_all() {
    std::vector<const Identity*> all;
    for (const Identity& id : parts_.frames().knowledge().identities)
        if (settled_by_proposal(id)) all.push_back(&id);
    claim_all_of(all, "accept all proposals");
}

void IdentitiesPanel::claim_for() {
    const Identity* id = chosen();
    if (!id) return;
    std::string target = id->targets.empty() ? "" : id->targets.front();
    if (id->status == Identity::Status::unclaimed) target = id->proposal.target;
    Claim start = claim_of(*id, target);
    // Without a number, frames are distinguished by their folder, if there is exactly one.
    if (start.of == Claim::Of::body && start.serial.empty() && id->folders.size() == 1)
        start.folder = id->folders.front();
    ClaimDialog dialog(parts_, start, this);
    if (dialog.exec() == QDialog::Accepted)
        parts_.entries().edit(start.of == Claim::Of::body ? "claim for a body" : "assign a lens", dialog.edit());
}

void IdentitiesPanel::take_back() {
    const Identity* id = chosen();
    if (!id) return;
    FleetEdit edit;
    for (const Claim& c : parts_.entries().fleet()->claims())
        if ((c.of == Claim::Of::body) == (id->of == Identity::Of::body) &&
            claim_holds(c, id->example, id->reported, id->targets.empty() ? "" : id->targets.front()))
            edit.claims.push_back({c, std::nullopt});
    ask_with_reach(parts_.jobs(), parts_.entries().source(), this,
                   {.title = "Take claims back",
                    .heading = QString("Take back %1 claim%2 of %3")
                                   .arg(edit.claims.size())
                                   .arg(edit.claims.size() == 1 ? "" : "s")
                                   .arg(reported_text(*id)),
                    .verb = "&Take back",
                    .look = ReachNote::of(edit)},
                   [this, edit](const std::string&) { parts_.entries().edit("take a claim back", edit); });
}

}  // namespace optrel
