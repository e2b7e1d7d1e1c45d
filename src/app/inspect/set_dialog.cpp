// SPDX-License-Identifier: GPL-3.0-or-later
#include "inspect/set_dialog.h"

#include <QFormLayout>
#include <QHeaderView>
#include <QPushButton>

#include "base/error.h"
#include "studio/baselines/drafting.h"
#include "widgets/answer_buttons.h"
#include "widgets/place.h"

namespace optrel {

SetDialog::SetDialog(const Parts& parts, const QString& frame, const ResolvedFrame& fields, QWidget* parent)
    : QDialog(parent), parts_(parts), fields_(fields) {
    setWindowTitle("Make or update a set");
    auto* layout = new QVBoxLayout(this);
    auto* form = new QFormLayout;
    name_ = new QComboBox;
    name_->setEditable(true);
    name_->setAccessibleName("Name of the set");
    for (const PinSet& s : parts.baselines().draft().sets) name_->addItem(q(s.name));
    name_->setCurrentText("");
    name_->lineEdit()->setPlaceholderText("a new name, or a set to update");
    form->addRow("Set", name_);
    layout->addLayout(form);
    auto* hint = heading(QString("Choose the fields to take from %1. Those that differ from the neutral start are "
                                 "bold; none is chosen for you.")
                             .arg(frame));
    hint->setWordWrap(true);
    layout->addWidget(hint);
    table_ = new QTableWidget(field_count, 4);
    table_->setAccessibleName("Fields to take");
    table_->setHorizontalHeaderLabels({"Field", "In this frame", "Start", "In the set now"});
    table_->verticalHeader()->hide();
    table_->verticalHeader()->setDefaultSectionSize(22);
    table_->horizontalHeader()->setSectionResizeMode(0, QHeaderView::Stretch);
    table_->setShowGrid(false);
    table_->setAlternatingRowColors(true);
    fill_table();
    layout->addWidget(table_, 1);
    auto* buttons =
        answer_buttons(*this, "Save the set", [this] { return parts_.attempt([this] { result_draft(); }); });
    save_ = taking(*buttons);
    layout->addWidget(buttons);
    connect(name_, &QComboBox::currentTextChanged, this, &SetDialog::refresh);
    connect(table_, &QTableWidget::itemChanged, this, &SetDialog::refresh);
    resize(620, 620);
    refresh();
}

void SetDialog::fill_table() {
    // Different fields come first.
    std::vector<Field> order;
    for (const bool differing : {true, false})
        for (const FieldInfo& f : all_fields())
            if (f.field != Field::start && (fields_[f.field].value != f.neutral) == differing) order.push_back(f.field);
    table_->setRowCount(static_cast<int>(order.size()));
    for (int row = 0; row < static_cast<int>(order.size()); ++row) {
        const FieldInfo& f = info(order[row]);
        auto* field = new QTableWidgetItem(q(f.label));
        field->setFlags(Qt::ItemIsEnabled | Qt::ItemIsUserCheckable | Qt::ItemIsSelectable);
        field->setCheckState(Qt::Unchecked);
        field->setData(Qt::UserRole, static_cast<int>(f.field));
        field->setToolTip(q(f.meaning));
        const bool differs = fields_[f.field].value != f.neutral;
        if (differs) {
            QFont bold = theme::text_font();
            bold.setBold(true);
            field->setFont(bold);
        }
        table_->setItem(row, 0, field);
        const QString texts[] = {q(to_display(f.field, fields_[f.field].value)), q(to_display(f.field, f.neutral)),
                                 QString()};
        for (int c = 0; c < 3; ++c) {
            auto* item = new QTableWidgetItem(texts[c]);
            item->setFlags(Qt::ItemIsEnabled | Qt::ItemIsSelectable);
            item->setTextAlignment(Qt::AlignRight | Qt::AlignVCenter);
            table_->setItem(row, c + 1, item);
        }
    }
}

Revision SetDialog::result_draft() const {
    const std::string name = name_->currentText().trimmed().toStdString();
    check_set_name(name);
    Revision after = parts_.baselines().draft();
    for (int row = 0; row < table_->rowCount(); ++row)
        if (table_->item(row, 0)->checkState() == Qt::Checked) {
            const Field f = static_cast<Field>(table_->item(row, 0)->data(Qt::UserRole).toInt());
            pin_in_set(after, name, f, Pin::constant(fields_[f].value));
        }
    return after;
}

void SetDialog::refresh() {
    const QSignalBlocker quiet(table_);
    const PinSet* set = parts_.baselines().draft().set(name_->currentText().trimmed().toStdString());
    int chosen = 0;
    for (int row = 0; row < table_->rowCount(); ++row) {
        const Field f = static_cast<Field>(table_->item(row, 0)->data(Qt::UserRole).toInt());
        const bool checked = table_->item(row, 0)->checkState() == Qt::Checked;
        chosen += checked;
        QString now;
        if (set) {
            const auto pin = set->pins.find(f);
            now = pin == set->pins.end() ? QString("inherits") : q(describe(f, pin->second));
            if (checked && (pin == set->pins.end() || !(pin->second == Pin::constant(fields_[f].value))))
                now += " → " + q(to_display(f, fields_[f].value));
        }
        table_->item(row, 3)->setText(now);
    }
    save_->setEnabled(chosen > 0 && !name_->currentText().trimmed().isEmpty());
    save_->setText(set ? QString("Update the set with %1 fields").arg(chosen)
                       : QString("Save the set with %1 fields").arg(chosen));
}

}  // namespace optrel
