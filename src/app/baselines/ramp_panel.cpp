// SPDX-License-Identifier: GPL-3.0-or-later
#include "baselines/ramp_panel.h"

#include <QHBoxLayout>
#include <cmath>
#include <map>

#include "studio/baselines/drafting.h"
#include "widgets/place.h"

namespace optrel {

RampPanel::RampPanel(DraftView& view, QWidget* parent) : QWidget(parent), view_(view) {
    editor_ = new RampEditor("Value over ISO");
    knots_ = new Table("Knots", {edited_figure_column("ISO", 58), edited_figure_column("Value")});
    knots_->setFixedWidth(132);
    auto* layout = new QHBoxLayout(this);
    layout->setContentsMargins(0, 0, 0, 0);
    layout->setSpacing(4);
    layout->addWidget(editor_, 1);
    layout->addWidget(knots_);
    connect(editor_, &RampEditor::edited, this, &RampPanel::take);
    connect(knots_, &Table::cell_edited, this, &RampPanel::edit_knot);
    for (const auto signal :
         {&DraftView::draft_changed, &DraftView::field_changed, &DraftView::tier_changed, &DraftView::subject_changed})
        connect(&view_, signal, this, &RampPanel::refresh);
    refresh();
}

void RampPanel::refresh() {
    const Field f = view_.field();
    const FieldInfo& field = info(f);
    const bool number = field.type == FieldType::number;
    const Tier* tier = view_.tier();
    const auto pin = tier ? tier->pins.find(f) : Pins::const_iterator{};
    const bool pinned = tier && pin != tier->pins.end();
    std::vector<RampEditor::Knot> knots;
    std::vector<Row> rows;
    if (pinned)
        for (const auto& [iso, value] : pin->second.knots) {
            knots.push_back({iso, value.number});
            rows.push_back({pin->second.is_ramp() ? Cell(QString::number(iso), iso) : Cell("all", Cell::Tone::faint),
                            Cell(number ? QString::number(value.number) : q(value.text), value.number)});
        }
    if (pinned)
        rows.push_back({Cell("add…", Cell::Tone::faint, "Double-click and write an ISO to add a knot"), Cell()});
    editor_->set_scale(q(field.label) + (field.unit.empty() ? "" : " / " + q(field.unit)), field.low, field.high,
                       field.decimals);
    editor_->set_knots(number ? knots : std::vector<RampEditor::Knot>{}, number && pinned);
    QString hint = "choose a tier to see its ramp";
    if (tier) hint = "'" + view_.name_of(*tier).left(40) + "' does not pin it";
    if (pinned)
        hint =
            "pinned by " + view_.name_of(*tier).left(44) + (pin->second.is_ramp() ? "" : "; double-click adds a knot");
    if (!number) hint = "steps at its knots; written as figures";
    editor_->set_hint(hint);
    knots_->set_rows(std::move(rows));
    std::vector<RampEditor::Knot> resolved;
    if (number && !view_.subject().facts.model.empty())
        for (int i = 0; i <= 700; ++i) {
            const FrameFacts facts = view_.at_iso(view_.subject(), 100 * std::exp2(i / 100.0)).facts;
            resolved.push_back({facts.iso, view_.resolver().resolve(facts, f).value.number});
        }
    editor_->set_resolved(resolved, view_.subject().label.isEmpty() ? QString() : view_.subject().label);
    // Frames that the tier applies to; without a tier, all.
    std::map<double, int> frames;
    const auto count = [&](const FactsGroup& g) {
        if (g.facts.iso > 0) frames[100 * std::exp2(std::round(3 * std::log2(g.facts.iso / 100)) / 3)] += g.frames;
    };
    view_.parts().frames().knowledge().index.reached_by(tier ? *tier : Tier(), count);
    std::vector<RampEditor::Bar> bars;
    for (const auto& [iso, n] : frames) bars.push_back({std::round(iso), n});
    editor_->set_frames(std::move(bars));
}

void RampPanel::take(const std::vector<RampEditor::Knot>& knots) {
    if (!view_.tier() || knots.empty()) return;
    Revision after = view_.parts().baselines().draft();
    Pin pin;
    for (const RampEditor::Knot& k : knots) pin.knots.emplace_back(k.iso, Value{k.value, ""});
    pin_in_tier(after, view_.tier()->id, view_.field(), pin);
    view_.parts().baselines().edit("change a ramp", after);
}

void RampPanel::edit_knot(int row, int column, const QString& text) {
    const Tier* tier = view_.tier();
    if (!tier || !tier->pins.count(view_.field())) return;
    const Field f = view_.field();
    view_.parts().attempt([&] {
        Pin pin = tier->pins.at(f);
        pin.measured.reset();  // a value that was edited by hand is not the measured one
        const bool fresh = row >= static_cast<int>(pin.knots.size());
        const QString trimmed = text.trimmed();
        if (column == 0 || fresh) {
            bool ok = false;
            const double iso = trimmed.toDouble(&ok);
            if (trimmed.isEmpty() && !fresh && pin.knots.size() > 1)
                pin.knots.erase(pin.knots.begin() + row);
            else if (!ok || !(iso >= 1 && iso <= 1e7))
                throw input_error("'" + trimmed.toStdString() + "' is no ISO; write a number such as 1600.");
            else if (fresh)
                pin.knots.emplace_back(iso, pin.at(f, iso));
            else
                pin.knots[row].first = iso;
            std::sort(pin.knots.begin(), pin.knots.end(),
                      [](const auto& a, const auto& b) { return a.first < b.first; });
            for (std::size_t i = 1; i < pin.knots.size(); ++i)
                if (pin.knots[i].first == pin.knots[i - 1].first)
                    throw input_error("There is a knot at that ISO already; change its value instead.");
        } else {
            pin.knots[row].second = value_from_text(f, trimmed.toStdString());
        }
        Revision after = view_.parts().baselines().draft();
        pin_in_tier(after, tier->id, f, pin);
        view_.parts().baselines().edit("change a knot", after);
    });
}

}  // namespace optrel
