// SPDX-License-Identifier: GPL-3.0-or-later
#include "baselines/pin_dialog.h"

#include <QPointer>
#include <QVBoxLayout>
#include <cmath>

#include "base/choose.h"
#include "jobs.h"
#include "studio/baselines/naming.h"
#include "studio/baselines/references.h"
#include "studio/baselines/tiers.h"
#include "widgets/answer_buttons.h"
#include "widgets/place.h"

namespace optrel {
namespace {

/// A pin with another value at one ISO: a ramp gets a knot there, anything else becomes that constant.
Pin with_value_at(const Pin* now, double iso, const Pin& typed) {
    if (!now || !now->is_ramp() || typed.is_ramp()) return typed;
    Pin out = *now;
    const Value& value = typed.knots.front().second;
    for (auto& [at, v] : out.knots)
        if (std::abs(std::log2(at / iso)) < 0.02) {
            v = value;
            return out;
        }
    out.knots.emplace_back(iso, value);
    std::sort(out.knots.begin(), out.knots.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
    return out;
}

}  // namespace

PinDialog::PinDialog(DraftView& view, const Subject& subject, Field field, const QString& text, QWidget* parent)
    : QDialog(parent),
      view_(view),
      subject_(subject),
      field_(field),
      pin_(pin_named(field, text.trimmed().toStdString(), view.parts().profiles().references(),
                     view.parts().baselines().draft())) {
    setWindowTitle("Pin a value");
    lay_out();
    offer_tiers();
    refresh_places();
    connect(places_, &Table::chosen_changed, this, &PinDialog::refresh_changes);
    places_->choose(0);
    refresh_changes();
    resize(720, 480);
    count();
}

void PinDialog::lay_out() {
    auto* layout = new QVBoxLayout(this);
    auto* title = heading(QString("%1 of %2 at ISO %3: %4. Pin it in which tier?")
                              .arg(q(info(field_).label), subject_.label)
                              .arg(subject_.facts.iso)
                              .arg(q(describe(field_, pin_))));
    title->setWordWrap(true);
    layout->addWidget(title);
    // The effect of a choice is shown after counting.
    const auto counted = [](std::function<Cell(const Option&)> shows) {
        return [shows = std::move(shows)](const Option& o) {
            return o.counted ? shows(o) : Cell("counting…", Cell::Tone::faint);
        };
    };
    places_ = new TableOf<Option>(
        "Tier to pin in",
        {{text_column("Tier"), [](const Option& o) { return Cell(o.where); }},
         {text_column("How", 150), [](const Option& o) { return Cell(o.how, Cell::Tone::faint); }},
         {figure_column("This cell", 76), counted([](const Option& o) { return Cell(o.then, Cell::Tone::mark); })},
         {figure_column("Frames that change", 124),
          counted([](const Option& o) { return figure_cell(o.changes.frames); })},
         {figure_column("Bodies", 56),
          [](const Option& o) { return o.counted ? figure_cell(o.changes.bodies.size()) : Cell(); }}});
    using Changed = ChangedValues::Body;
    changes_ = new TableOf<Changed>(
        "What else changes",
        {{text_column("Body"), [](const Changed& b) { return Cell(q(b.label)); }},
         {figure_column("Frames", 70), [](const Changed& b) { return figure_cell(b.frames); }},
         {figure_column("Now", 110), [](const Changed& b) { return Cell(q(b.was), Cell::Tone::faint); }},
         {figure_column("Then", 110), [](const Changed& b) { return Cell(q(b.is), Cell::Tone::mark); }}});
    sum_ = heading("");
    layout->addWidget(places_, 2);
    layout->addWidget(sum_);
    layout->addWidget(changes_, 2);
    auto* buttons = answer_buttons(*this, "Pin here");
    pin_here_ = taking(*buttons);
    pin_here_->setObjectName("primary");
    connect(places_, &QAbstractItemView::activated, pin_here_, &QPushButton::click);
    layout->addWidget(buttons);
}

/// A possible new tier for this scope, for any ISO or for one stop around the subject's.
Tier PinDialog::new_tier(Scope scope, const std::string& target, bool span) const {
    Tier t;
    t.scope = scope;
    t.target = target;
    const double iso = subject_.facts.iso;
    if (span) t.iso_span = {{std::round(iso / std::exp2(0.5)), std::round(iso * std::exp2(0.49))}};
    t.name = describe_conditions(t);
    return t;
}

/// From the most specific to the most general: existing tiers that apply, and possible new ones.
void PinDialog::offer_tiers() {
    const FrameFacts& facts = subject_.facts;
    const std::vector<const Tier*> applying = view_.resolver().applying(facts);
    for (auto it = applying.rbegin(); it != applying.rend(); ++it) add(view_.name_of(**it), **it, true);
    std::vector<Tier> fresh;
    if (facts.body_knowledge != BodyKnowledge::unknown)
        fresh = {new_tier(Scope::body, facts.body, false), new_tier(Scope::body, facts.body, true)};
    fresh.push_back(new_tier(Scope::model, facts.model, false));
    fresh.push_back(new_tier(Scope::studio, "", false));
    const std::vector<Tier>& tiers = view_.parts().baselines().draft().tiers;
    for (const Tier& t : fresh) {
        const bool there = std::any_of(tiers.begin(), tiers.end(), [&](const Tier& other) {
            return describe_conditions(other) == describe_conditions(t);
        });
        if (!there) add("new tier: " + view_.name_of(t), t, false);
    }
}

void PinDialog::add(const QString& where, Tier tier, bool exists) {
    Option o;
    o.where = where;
    const auto own = tier.pins.find(field_);
    const Pin* now = own == tier.pins.end() ? nullptr : &own->second;
    o.how = "a new pin";
    if (now)
        o.how = now->is_ramp() && !pin_.is_ramp() ? "a knot of its ramp"
                                                  : "in place of " + q(describe(field_, *now)).left(18);
    o.after = view_.parts().baselines().draft();
    if (!exists) tier.id = tier_with(o.after, tier).id;
    o.tier_id = tier.id;
    Tier* to = o.after.tier(tier.id);
    if (!to) return;
    to->pins[field_] = with_value_at(now, subject_.facts.iso, pin_);
    options_.push_back(std::move(o));
}

void PinDialog::count() {
    struct Counted {
        ChangedValues changes;
        Value then;
    };
    auto out = std::make_shared<std::vector<Counted>>();
    const auto before = view_.resolver_shared();
    const auto knowledge = view_.parts().frames().knowledge_shared();
    const FrameFacts facts = subject_.facts;
    const Field field = field_;
    std::vector<std::pair<std::string, Revision>> drafts;
    for (const Option& o : options_) drafts.emplace_back(o.tier_id, o.after);
    const QPointer<PinDialog> self(this);
    view_.parts().jobs().run_quietly(
        [=] {
            for (const auto& [id, draft] : drafts) {
                const Resolver after(draft);
                out->push_back({changed_values(*before, after, *after.revision().tier(id), field, knowledge->index,
                                               knowledge->bodies),
                                after.resolve(facts, field).value});
            }
        },
        [=] {
            if (!self) return;
            for (std::size_t i = 0; i < out->size(); ++i) {
                self->options_[i].counted = true;
                self->options_[i].changes = std::move((*out)[i].changes);
                self->options_[i].then = self->view_.text_of(field, (*out)[i].then);
            }
            self->refresh_places();
            self->offer_narrowest();
        });
}

void PinDialog::refresh_places() { places_->show_records(options_); }

/// The most specific tier in which the pin has the intended effect.
void PinDialog::offer_narrowest() {
    const bool known = subject_.facts.body_knowledge != BodyKnowledge::unknown;
    for (std::size_t i = 0; i < options_.size(); ++i)
        if (options_[i].then == view_.text_of(field_, pin_.at(field_, subject_.facts.iso)) &&
            (!known || options_[i].after.tier(options_[i].tier_id)->scope == Scope::body)) {
            places_->choose(static_cast<int>(i));
            break;
        }
    refresh_changes();
}

void PinDialog::refresh_changes() {
    if (options_.empty()) return;
    const Option& o = options_[chosen()];
    pin_here_->setEnabled(o.counted);
    const QString frames = o.changes.frames == 1 ? QString("One frame") : QString("%1 frames").arg(o.changes.frames);
    const QString bodies =
        o.changes.bodies.size() == 1 ? QString("one body") : QString("%1 bodies").arg(o.changes.bodies.size());
    sum_->setText(first_of<QString>(
        {{!o.counted, "Counting what would change …"}, {o.changes.frames == 0, "No frame that exists changes."}},
        QString("%1 of %2 change:").arg(frames, bodies)));
    changes_->show_records(o.changes.bodies);
}

}  // namespace optrel
