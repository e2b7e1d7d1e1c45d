// SPDX-License-Identifier: GPL-3.0-or-later
#include "baselines/tier_panel.h"

#include <QHBoxLayout>
#include <QVBoxLayout>

#include "base/choose.h"
#include "base/error.h"
#include "baselines/copy_dialog.h"
#include "baselines/tier_dialog.h"
#include "studio/baselines/drafting.h"
#include "widgets/place.h"

namespace optrel {

namespace {

QLabel* new_others_label() {
    auto* label = new QLabel;
    label->setAccessibleDescription("Who else is here");
    label->setWordWrap(true);
    label->setTextFormat(Qt::PlainText);
    label->setStyleSheet(QString("color: %1").arg(theme::warning.name()));
    label->hide();
    return label;
}

}  // namespace

TierPanel::TierPanel(DraftView& view, QWidget* parent) : QWidget(parent), view_(view) {
    tiers_ = new Table("Tiers", {edited_column("Tier, lowest first"), figure_column("Pins", 38),
                                 figure_column("Bodies", 48), figure_column("Frames", 52)});
    pins_ = new Table("Pins of the chosen tier",
                      {text_column("Field", 132), edited_column("Value, or ISO: value, …"), text_column("Over", 48)});
    pins_->allow_sorting(false);
    pinned_only_ = new QCheckBox("Pinned &only");
    pinned_only_->setToolTip("Hides the fields that the chosen tier leaves to inherit");
    auto* add = button("&Add tier…", "A new rule: for the studio, a model or a body; for a lens, an ISO span");
    delete_ = button("&Delete tier", "Takes the chosen tier out of the draft, or brings a deleted one back");
    copy_ = button("&Copy to…", "Copies the pins of the chosen tier to other bodies; the difference is shown first");
    auto* buttons = new QHBoxLayout;
    buttons->setSpacing(3);
    for (QPushButton* b : {add, delete_, copy_}) buttons->addWidget(b);
    buttons->addStretch();
    pins_of_ = heading("Pins");
    auto* layout = stacked_in(this, 3);
    layout->addWidget(others_ = new_others_label());
    layout->addWidget(tiers_, 3);
    layout->addLayout(buttons);
    auto* head = new QHBoxLayout;
    head->addWidget(pins_of_);
    head->addStretch();
    head->addWidget(pinned_only_);
    layout->addLayout(head);
    layout->addWidget(pins_, 4);

    connect(tiers_, &Table::chosen_changed, this, [this](int row) {
        view_.choose_tier(id_at(row));
        refresh_pins();
        be_present();
    });
    connect(tiers_, &Table::cell_edited, this, [this](int row, int, const QString& text) { edit_tier(row, text); });
    connect(pins_, &Table::cell_edited, this, [this](int row, int, const QString& text) { edit_pin(row, text); });
    connect(pins_, &Table::chosen_changed, this, [this](int row) {
        if (row > 0) view_.choose_field(all_fields()[row - 1].field);
    });
    connect(pinned_only_, &QCheckBox::toggled, this, &TierPanel::refresh_pins);
    connect(add, &QPushButton::clicked, this, &TierPanel::add_tier);
    connect(delete_, &QPushButton::clicked, this, [this] {
        const int row = tiers_->chosen();
        row >= 0 && row < static_cast<int>(lines_.size()) && lines_[row].deleted ? restore_tier() : delete_tier();
    });
    connect(copy_, &QPushButton::clicked, this, &TierPanel::copy_pins);
    connect(&view_, &DraftView::draft_changed, this, &TierPanel::refresh_tiers);
    connect(&view_, &DraftView::report_changed, this, &TierPanel::refresh_tiers);
    connect(&view_, &DraftView::tier_changed, this, [this] {
        for (std::size_t i = 0; i < lines_.size(); ++i)
            if (view_.tier() && lines_[i].id == view_.tier()->id) tiers_->choose(static_cast<int>(i));
        refresh_pins();
        // Shows pinned fields first, because most fields are not pinned.
        if (view_.tier() && view_.tier()->sets.empty() && !view_.tier()->pins.empty())
            pins_->scrollTo(pins_->model()->index(static_cast<int>(view_.tier()->pins.begin()->first) + 1, 0),
                            QAbstractItemView::PositionAtTop);
        be_present();
    });
    connect(&view_.parts().presence(), &PresenceService::changed, this, &TierPanel::refresh_others);
    refresh_tiers();
    refresh_others();
}

void TierPanel::showEvent(QShowEvent* event) {
    QWidget::showEvent(event);
    be_present();
}

void TierPanel::hideEvent(QHideEvent* event) {
    QWidget::hideEvent(event);
    view_.parts().presence().at("", "");
}

void TierPanel::be_present() {
    if (!isVisible()) return;
    if (view_.tier())
        view_.parts().presence().at("tier", view_.tier()->id);
    else
        view_.parts().presence().at("draft", "");
    refresh_others();
}

void TierPanel::refresh_others() {
    QStringList here, elsewhere;
    for (const Present& p : view_.parts().presence().others()) {
        const QString who = QString("%1 at %2").arg(q(p.author), q(p.station));
        const Tier* theirs = view_.parts().baselines().draft().tier(p.subject);
        if (p.kind == "tier" && view_.tier() && p.subject == view_.tier()->id)
            here << who;
        else if (p.kind == "tier" && theirs)
            elsewhere << QString("%1 has %2 open").arg(who, view_.name_of(*theirs));
        else if (p.kind == "tier" || p.kind == "draft")
            elsewhere << QString("%1 has the draft open").arg(who);
    }
    QStringList lines;
    if (!here.isEmpty()) lines << QString("Also at this tier: %1.").arg(here.join(", "));
    if (!elsewhere.isEmpty()) lines << elsewhere.join("; ") + ".";
    others_->setText(lines.join("\n"));
    others_->setVisible(!lines.isEmpty());
}

std::string TierPanel::id_at(int row) const {
    return row >= 0 && row < static_cast<int>(lines_.size()) ? lines_[row].id : "";
}

namespace {

/// Order of the tree: studio, then each model with its bodies.
std::vector<std::pair<const Tier*, int>> as_tree(const std::vector<Tier>& tiers, const DraftView::Parts& parts) {
    std::unordered_map<std::string, std::string> model_of;
    for (const Body& b : parts.entries().bodies()) model_of[b.id] = b.camera();
    std::map<std::string, std::pair<std::vector<const Tier*>, std::map<std::string, std::vector<const Tier*>>>> models;
    std::vector<std::pair<const Tier*, int>> out;
    for (const Tier& t : tiers) {
        if (t.scope == Scope::studio) out.emplace_back(&t, t.rank() == std::tuple(0, 0, 0) ? 0 : 1);
        if (t.scope == Scope::model) models[t.target].first.push_back(&t);
        if (t.scope == Scope::body) {
            const auto model = model_of.find(t.target);
            models[model != model_of.end() ? model->second : t.target.substr(0, t.target.rfind('/'))]
                .second[t.target]
                .push_back(&t);
        }
    }
    for (const auto& [model, group] : models) {
        for (const Tier* t : group.first)
            out.emplace_back(t, std::get<1>(t->rank()) + std::get<2>(t->rank()) > 0 ? 2 : 1);
        for (const auto& [body, list] : group.second)
            for (const Tier* t : list) out.emplace_back(t, std::get<1>(t->rank()) + std::get<2>(t->rank()) > 0 ? 3 : 2);
    }
    return out;
}

}  // namespace

void TierPanel::refresh_tiers() {
    const DraftView::Parts& parts = view_.parts();
    lines_.clear();
    std::vector<Row> rows;
    QString above;
    for (const auto& [t, depth] : as_tree(view_.resolver().tiers(), parts)) {
        lines_.push_back({t->id, false});
        Cell pins(QString::number(t->pins.size()) + (t->sets.empty() ? "" : QString("+%1").arg(t->sets.size())),
                  Cell::Tone::plain, t->sets.empty() ? QString() : QString("its own, and sets"));
        Cell bodies, frames;
        if (const auto it = view_.report().reach.find(t->id); it != view_.report().reach.end()) {
            bodies = Cell(QString::number(it->second.bodies), Cell::Tone::plain,
                          QString("%1 registered bodies, %2 of them seen in frames")
                              .arg(it->second.bodies)
                              .arg(it->second.bodies_seen));
            frames =
                Cell(QString::number(it->second.frames), it->second.frames ? Cell::Tone::plain : Cell::Tone::warning,
                     it->second.frames ? QString() : QString("it has matched no frame"));
        }
        // Below the tier of its body or model, only the additional conditions are shown.
        QString name = view_.name_of(*t);
        if (!above.isEmpty() && name.startsWith(above + ", "))
            name = name.mid(above.size() + 2);
        else
            above = name;
        rows.push_back({Cell(QString(depth * 3, ' ') + name, Cell::Tone::plain, q(describe_conditions(*t))), pins,
                        bodies, frames});
    }
    for (const Tier& t : parts.baselines().current().tiers)
        if (!parts.baselines().draft().tier(t.id)) {
            lines_.push_back({t.id, true});
            rows.push_back(
                {Cell("✕ " + view_.name_of(t), Cell::Tone::faint,
                      QString("deleted since revision %1; it can be restored").arg(parts.baselines().current().number)),
                 Cell(QString::number(t.pins.size()), Cell::Tone::faint), Cell(), Cell()});
        }
    const QSignalBlocker quiet(tiers_);
    tiers_->set_rows(std::move(rows));
    const std::string wanted = view_.tier() ? view_.tier()->id : "";
    for (std::size_t i = 0; i < lines_.size(); ++i)
        if (!wanted.empty() && lines_[i].id == wanted && tiers_->chosen() != static_cast<int>(i))
            tiers_->choose(static_cast<int>(i));
    refresh_pins();
}

namespace {

/// Meaning and allowed values of a field.
QString hint_of(const FieldInfo& f) {
    QString hint = q(f.meaning);
    if (f.type == FieldType::number) hint += QString(" From %1 to %2 %3.").arg(f.low).arg(f.high).arg(q(f.unit));
    if (f.choices.empty()) return hint;
    QStringList choices;
    for (const std::string& c : f.choices) choices << q(c);
    return hint + " One of: " + choices.join(", ") + ".";
}

/// The largest group of frames that a tier applies to; none: 0 frames.
FactsGroup largest_group(const Tier& t, const FleetKnowledge& knowledge) {
    FactsGroup largest{};
    knowledge.index.reached_by(t, [&](const FactsGroup& g) {
        if (g.frames > largest.frames) largest = g;
    });
    return largest;
}

/// Value of a field from the layers below a tier's own pin.
Cell beneath(const DraftView& view, const Tier& t, Field field, const FrameFacts& facts) {
    const std::vector<TraceStep> trace = view.resolver().trace(facts, field);
    const TraceStep* last = nullptr;
    for (const TraceStep& step : trace) {
        if (step.tier && step.tier->id == t.id && !step.set) break;
        last = &step;
    }
    if (!last) return {};
    const QString value = view.text_of(field, last->value);
    return Cell(value, Cell::Tone::faint,
                QString("beneath, at ISO %1: %2 says %3").arg(facts.iso).arg(q(last->source), value));
}

}  // namespace

std::vector<Row> TierPanel::pin_rows(const Tier& t) const {
    QStringList sets;
    for (const std::string& s : t.sets) sets << q(s);
    std::vector<Row> rows{{Cell("Sets", Cell::Tone::plain, "They come before the tier's own pins, in this order"),
                           sets.isEmpty() ? Cell("none", Cell::Tone::faint, "Names of sets, with commas between")
                                          : Cell(sets.join(", "), Cell::Tone::mark),
                           Cell()}};
    // The value below is shown for the most frequent kind of frame.
    const FactsGroup group = largest_group(t, view_.parts().frames().knowledge());
    for (const FieldInfo& f : all_fields()) {
        const auto pin = t.pins.find(f.field);
        const QString hint = hint_of(f);
        Cell value("inherits", Cell::Tone::faint, hint), over;
        if (pin != t.pins.end()) {
            const bool profile = f.field == Field::lens_profile && !pin->second.is_ramp();
            const QString text =
                profile ? view_.text_of(f.field, pin->second.knots.front().second) : q(describe(f.field, pin->second));
            value = Cell(text, Cell::Tone::mark, hint);
            if (group.frames > 0) over = beneath(view_, t, f.field, group.facts);
        }
        const bool look = f.nature == FieldNature::look;
        rows.push_back(
            {Cell(q(f.label), look ? Cell::Tone::faint : Cell::Tone::plain, hint + (look ? " A matter of look." : "")),
             value, over});
    }
    return rows;
}

void TierPanel::refresh_pins() {
    const int chosen = tiers_->chosen();
    const bool deleted = chosen >= 0 && chosen < static_cast<int>(lines_.size()) && lines_[chosen].deleted;
    const Tier* t = view_.tier();
    delete_->setEnabled(t || deleted);
    delete_->setText(deleted ? "&Restore" : "&Delete tier");
    copy_->setEnabled(t && !t->pins.empty());
    pins_of_->setText(
        first_of<const char*>({{t != nullptr, "Pins: empty one to inherit"}, {deleted, "This tier is deleted"}},
                              "Pins: choose or add a tier"));
    pins_->set_rows(t ? pin_rows(*t) : std::vector<Row>());
    for (int row = 0; row < pins_->row_count(); ++row) {
        const bool pinned = row == 0 ? !t->sets.empty() : t->pins.count(all_fields()[row - 1].field) > 0;
        pins_->setRowHidden(row, pinned_only_->isChecked() && !pinned);
    }
}

void TierPanel::edit_tier(int row, const QString& name) {
    Revision after = view_.parts().baselines().draft();
    Tier* t = after.tier(id_at(row));
    if (!t || name.trimmed().isEmpty()) return;
    if (view_.name_of(*t).endsWith(name.trimmed())) return;  // read only
    optrel::rename_tier(after, t->id, name.toStdString());
    view_.parts().baselines().edit("rename a tier", after);
}

void TierPanel::edit_pin(int row, const QString& text) {
    if (!view_.tier()) return;
    const DraftView::Parts& parts = view_.parts();
    parts.attempt([&] {
        Revision after = parts.baselines().draft();
        const Tier& tier = *view_.tier();
        if (row == 0) {
            use_sets(after, tier.id, text.trimmed() == "inherits" ? "" : text.toStdString());
            return parts.baselines().edit("change the sets of a tier", after);
        }
        const Field f = all_fields()[row - 1].field;
        const std::optional<Pin> pin = typed_pin(f, text.toStdString(), parts.profiles().references(), after);
        if (!pin && tier.pins.count(f) == 0) return;
        pin_in_tier(after, tier.id, f, pin);
        parts.baselines().edit("change a pin", after);
    });
}

void TierPanel::add_tier() {
    TierDialog dialog(view_.parts(), this);
    if (dialog.exec() != QDialog::Accepted) return;
    const DraftView::Parts& parts = view_.parts();
    parts.attempt([&] {
        const Tier tier = dialog.tier();
        Revision after = parts.baselines().draft();
        optrel::add_tier(after, tier);
        parts.baselines().edit("add a tier", after);
        view_.choose_tier(tier.id);
    });
}

void TierPanel::delete_tier() {
    if (!view_.tier()) return;
    Revision after = view_.parts().baselines().draft();
    optrel::delete_tier(after, view_.tier()->id);
    view_.parts().baselines().edit("delete a tier", after);
}

void TierPanel::restore_tier() {
    const Tier* gone = view_.parts().baselines().current().tier(id_at(tiers_->chosen()));
    if (!gone) return;
    view_.parts().attempt([&] {
        Revision after = view_.parts().baselines().draft();
        bring_back_tier(after, *gone);
        view_.parts().baselines().edit("restore a tier", after);
    });
}

void TierPanel::copy_pins() {
    if (!view_.tier()) return;
    CopyDialog dialog(view_, *view_.tier(), this);
    if (dialog.exec() == QDialog::Accepted)
        view_.parts().baselines().edit("copy pins to other bodies", dialog.result_draft());
}

}  // namespace optrel
