// SPDX-License-Identifier: GPL-3.0-or-later
#include "baselines/tier_dialog.h"

#include <fmt/format.h>

#include <QFormLayout>
#include <QPushButton>
#include <cstdio>
#include <set>

#include "studio/baselines/tiers.h"
#include "widgets/answer_buttons.h"
#include "widgets/place.h"

namespace optrel {

TierDialog::TierDialog(const Parts& parts, QWidget* parent) : QDialog(parent), parts_(parts) {
    setWindowTitle("Add a tier");
    auto* form = new QFormLayout(this);
    scope_ = new QComboBox;
    scope_->addItems({"studio", "model", "body"});
    scope_->setAccessibleName("Scope");
    target_ = new QComboBox;
    target_->setAccessibleName("Model or body");
    lens_ = new QComboBox;
    lens_->setAccessibleName("Lens");
    lens_->addItem("any lens");
    std::set<std::string> texts;
    for (const LensEntry& l : parts_.entries().lenses())
        if (texts.insert(l.lens).second) lens_->addItem("model: " + q(l.lens), q(l.lens));
    for (const LensEntry& l : parts_.entries().lenses()) lens_->addItem("copy: " + q(l.id), q(l.id));
    iso_ = new QLineEdit;
    iso_->setPlaceholderText("any, or a span such as 1600-6400");
    iso_->setAccessibleName("ISO span");
    kind_ = new QComboBox;
    kind_->addItems({"raw", "rendered", "raw and rendered"});
    kind_->setAccessibleName("Kind of file");
    name_ = new QLineEdit;
    name_->setPlaceholderText("made from the conditions");
    name_->setAccessibleName("Name");
    form->addRow("For", scope_);
    form->addRow("Which", target_);
    form->addRow("Lens", lens_);
    form->addRow("ISO", iso_);
    form->addRow("Kind of file", kind_);
    form->addRow("Name", name_);
    form->addRow(answer_buttons(*this, "Add the tier", [this] { return parts_.attempt([this] { tier(); }); }));
    connect(scope_, &QComboBox::currentIndexChanged, this, &TierDialog::fill_targets);
    fill_targets();
    resize(440, sizeHint().height());
}

void TierDialog::fill_targets() {
    target_->clear();
    target_->setEnabled(scope_->currentIndex() > 0);
    std::set<std::string> models;
    for (const Body& b : parts_.entries().bodies()) {
        if (scope_->currentIndex() == 2) target_->addItem(q(b.label()), q(b.id));
        if (scope_->currentIndex() == 1 && models.insert(b.camera()).second)
            target_->addItem(q(b.camera()), q(b.camera()));
    }
}

Tier TierDialog::tier() const {
    Tier t;
    t.scope = static_cast<Scope>(scope_->currentIndex());
    if (t.scope != Scope::studio) {
        t.target = target_->currentData().toString().toStdString();
        if (t.target.empty()) throw input_error("There is no body in the fleet yet; add frames in Fleet first.");
    }
    if (lens_->currentIndex() > 0) {
        t.lens_condition = lens_->currentText().startsWith("copy") ? LensCondition::copy : LensCondition::model;
        t.lens = lens_->currentData().toString().toStdString();
    }
    if (const std::string span = iso_->text().trimmed().toStdString(); !span.empty()) {
        t.iso_span = iso_span_from(span);
    }
    t.raw = kind_->currentIndex() != 1;
    t.rendered = kind_->currentIndex() != 0;
    t.name = name_->text().trimmed().isEmpty() ? describe_conditions(t) : name_->text().trimmed().toStdString();
    t.id = tier_id_for(parts_.baselines().draft(), t);
    return t;
}

}  // namespace optrel
