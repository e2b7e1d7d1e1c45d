// SPDX-License-Identifier: GPL-3.0-or-later
#include "sharing/measurer_dialog.h"

#include <QCheckBox>
#include <QFormLayout>
#include <QLineEdit>

#include "base/error.h"
#include "sharing/signing.h"
#include "widgets/answer_buttons.h"
#include "widgets/place.h"

namespace optrel {

MeasurerDialog::MeasurerDialog(const Measurer& measurer, QWidget* parent) : QDialog(parent), measurer_(measurer) {
    setWindowTitle("A measurer");
    auto* layout = new QVBoxLayout(this);
    auto* about = new QLabel(
        "Compare the key with its owner by another way than the one that it came by, for instance by telephone. What a "
        "trusted key signed fits frames by itself as same model; all else is a stand-in.");
    about->setWordWrap(true);
    layout->addWidget(about);
    name_ = new QLineEdit(q(measurer.name));
    name_->setAccessibleName("Name");
    key_ = new QLineEdit(q(measurer.key));
    key_->setAccessibleName("Key");
    key_->setReadOnly(!measurer.key.empty());
    key_->setPlaceholderText("64 digits 0-9 and a-f");
    auto* form = new QFormLayout;
    auto* name = new QLabel("&Name, as this studio calls them");
    name->setBuddy(name_);
    form->addRow(name, name_);
    auto* key = new QLabel("&Key");
    key->setBuddy(key_);
    form->addRow(key, key_);
    layout->addLayout(form);
    trusted_ = new QCheckBox("This studio &trusts what this key signed");
    trusted_->setChecked(measurer.trusted && measurer.withdrawn.empty());
    trusted_->setEnabled(measurer.withdrawn.empty());
    layout->addWidget(trusted_);
    auto* wrong = new QLabel;
    wrong->setStyleSheet(QString("color: %1").arg(theme::serious.name()));
    wrong->setWordWrap(true);
    layout->addWidget(wrong);
    layout->addWidget(answer_buttons(*this, "&Keep", [this, wrong] {
        try {
            required_key(key_->text().toStdString());
            if (!name_->text().trimmed().isEmpty()) return true;
            wrong->setText("Write a name that this studio knows them by.");
        } catch (const Error& error) {
            wrong->setText(q(error.what()));
        }
        return false;
    }));
    resize(640, 230);
}

Measurer MeasurerDialog::measurer() const {
    Measurer out = measurer_;
    out.name = name_->text().trimmed().toStdString();
    out.key = required_key(key_->text().toStdString());
    out.trusted = trusted_->isChecked();
    return out;
}

}  // namespace optrel
