// SPDX-License-Identifier: GPL-3.0-or-later
#include "baselines/copy_dialog.h"

#include <QVBoxLayout>

#include "studio/baselines/tiers.h"
#include "widgets/answer_buttons.h"
#include "widgets/place.h"

namespace optrel {

Tier& tier_like(Revision& r, const Tier& model, const Body& body) {
    Tier wanted = model;
    wanted.scope = Scope::body;
    wanted.target = body.id;
    wanted.name = describe_conditions(wanted);
    wanted.pins.clear();
    wanted.sets.clear();
    return tier_with(r, wanted);
}

CopyDialog::CopyDialog(DraftView& view, const Tier& from, QWidget* parent) : QDialog(parent), view_(view), from_(from) {
    setWindowTitle("Copy pins to other bodies");
    auto* layout = new QVBoxLayout(this);
    layout->addWidget(heading(QString("Pins of '%1' go to the tiers of:").arg(q(from.name))));
    bodies_ = new QListWidget;
    bodies_->setAccessibleName("Bodies to copy to");
    for (const Body& b : view_.parts().entries().bodies()) {
        if (from.scope == Scope::body && b.id == from.target) continue;
        auto* item = new QListWidgetItem(q(b.label()) + "   " + q(b.camera()), bodies_);
        item->setData(Qt::UserRole, q(b.id));
        item->setCheckState(Qt::Unchecked);
    }
    layout->addWidget(bodies_, 2);
    layout->addWidget(heading("What that changes in the draft"));
    difference_ = new TableOf<RevisionChange>(
        "Difference",
        {{text_column("Tier"), [](const RevisionChange& c) { return Cell(q(c.tier)); }},
         {text_column("Field", 130),
          [](const RevisionChange& c) { return Cell(c.field.empty() ? QString("new tier") : q(c.field)); }},
         {text_column("Now", 110), [](const RevisionChange& c) { return Cell(q(c.before), Cell::Tone::faint); }},
         {text_column("Then", 110), [](const RevisionChange& c) { return Cell(q(c.after), Cell::Tone::mark); }}});
    layout->addWidget(difference_, 3);
    auto* buttons = answer_buttons(*this, "Copy");
    copy_ = taking(*buttons);
    layout->addWidget(buttons);
    connect(bodies_, &QListWidget::itemChanged, this, &CopyDialog::refresh);
    resize(640, 520);
    refresh();
}

Revision CopyDialog::result_draft() const {
    Revision after = view_.parts().baselines().draft();
    for (int i = 0; i < bodies_->count(); ++i) {
        if (bodies_->item(i)->checkState() != Qt::Checked) continue;
        const Body* body =
            view_.parts().entries().fleet()->body(bodies_->item(i)->data(Qt::UserRole).toString().toStdString());
        if (!body) continue;
        Tier& to = tier_like(after, from_, *body);
        copy_pins(after, from_.id, to.id);
    }
    return after;
}

void CopyDialog::refresh() {
    const std::vector<RevisionChange> changes = difference(view_.parts().baselines().draft(), result_draft());
    copy_->setEnabled(!changes.empty());
    difference_->show_records(changes);
}

}  // namespace optrel
