// SPDX-License-Identifier: GPL-3.0-or-later
#include "intake/folder_dialog.h"

#include <QFormLayout>
#include <QHBoxLayout>
#include <QTimeZone>

#include "widgets/answer_buttons.h"
#include "widgets/place.h"

namespace optrel {
namespace {

QCheckBox* check(const char* text, bool on) {
    auto* out = new QCheckBox(text);
    out->setChecked(on);
    return out;
}

QLayout* beside(std::initializer_list<QWidget*> widgets) {
    auto* out = new QHBoxLayout;
    for (QWidget* w : widgets) out->addWidget(w);
    out->addStretch();
    return out;
}

QTimeEdit* time_edit(const char* name, int minutes) {
    auto* out = new QTimeEdit(QTime(minutes / 60, minutes % 60));
    out->setDisplayFormat("HH:mm");
    out->setAccessibleName(name);
    return out;
}

}  // namespace

FolderDialog::FolderDialog(const IntakeFolder& f, const QStringList& sets,
                           std::function<bool(const IntakeFolder&)> keep, QWidget* parent)
    : QDialog(parent) {
    const bool fresh = f.author.empty();  // no rules yet
    setWindowTitle(fresh ? "Watch a folder" : "Watched folder");
    auto* form = new QFormLayout;
    folder_ = new QLineEdit(q(f.folder.string()));
    folder_->setAccessibleName("Folder");
    folder_->setPlaceholderText("with the folders beneath it");
    folder_->setReadOnly(!fresh);
    form->addRow("Folder", folder_row(folder_, "Folder to watch"));
    what_ = new QComboBox;
    what_->addItems({"get their baseline at once", "become known and wait for a person"});
    what_->setCurrentIndex(f.only_index ? 1 : 0);
    what_->setAccessibleName("New frames");
    form->addRow("New frames", what_);
    set_ = new QComboBox;
    set_->addItem("none");
    set_->addItems(sets);
    if (!f.set.empty() && set_->findText(q(f.set)) < 0) set_->addItem(q(f.set));
    set_->setCurrentIndex(f.set.empty() ? 0 : set_->findText(q(f.set)));
    set_->setAccessibleName("Set on top");
    form->addRow("Set on top", set_);
    until_ = check("until", !f.set_until.empty());
    until_when_ = new QDateTimeEdit(QDateTime::currentDateTime().addSecs(8 * 3600));
    if (!f.set_until.empty())
        until_when_->setDateTime(QDateTime::fromString(q(f.set_until), Qt::ISODate).toLocalTime());
    until_when_->setDisplayFormat("yyyy-MM-dd HH:mm");
    until_when_->setCalendarPopup(true);
    until_when_->setAccessibleName("Set until");
    form->addRow("", beside({until_, until_when_}));
    raw_only_ = check("rendered pictures become known and wait", f.raw_only);
    unknown_waits_ = check("raw frames of a body that is not known wait", f.unknown_waits);
    unknown_waits_->setToolTip("Otherwise they get what the studio and their model say");
    form->addRow("Exceptions", raw_only_);
    form->addRow("", unknown_waits_);
    hours_ = check("only at", !f.hours.whole_day());
    from_ = time_edit("Hours from", f.hours.whole_day() ? 20 * 60 : f.hours.from);
    to_ = time_edit("Hours to", f.hours.whole_day() ? 7 * 60 : f.hours.to);
    form->addRow("Taken in", beside({hours_, from_, new QLabel("to"), to_}));
    on_ = check("watch it", f.on);
    form->addRow("", on_);
    for (QCheckBox* box : {until_, hours_}) connect(box, &QCheckBox::toggled, this, &FolderDialog::refresh);
    connect(set_, &QComboBox::currentIndexChanged, this, &FolderDialog::refresh);
    connect(what_, &QComboBox::currentIndexChanged, this, &FolderDialog::refresh);
    auto* layout = new QVBoxLayout(this);
    layout->addLayout(form);
    layout->addWidget(
        answer_buttons(*this, fresh ? "&Watch" : "&Keep", [this, keep = std::move(keep)] { return keep(folder()); }));
    resize(560, sizeHint().height());
    refresh();
}

void FolderDialog::refresh() {
    const bool written = what_->currentIndex() == 0;
    set_->setEnabled(written);
    const bool with_set = written && set_->currentIndex() > 0;
    until_->setEnabled(with_set);
    until_when_->setEnabled(with_set && until_->isChecked());
    raw_only_->setEnabled(written);
    unknown_waits_->setEnabled(written);
    from_->setEnabled(hours_->isChecked());
    to_->setEnabled(hours_->isChecked());
}

IntakeFolder FolderDialog::folder() const {
    IntakeFolder out;
    out.folder = folder_->text().trimmed().toStdString();
    out.only_index = what_->currentIndex() == 1;
    if (set_->isEnabled() && set_->currentIndex() > 0) out.set = set_->currentText().toStdString();
    if (until_when_->isEnabled())
        out.set_until = until_when_->dateTime().toUTC().toString("yyyy-MM-ddTHH:mm:ssZ").toStdString();
    out.raw_only = raw_only_->isEnabled() && raw_only_->isChecked();
    out.unknown_waits = unknown_waits_->isEnabled() && unknown_waits_->isChecked();
    const auto minutes = [](const QTimeEdit* t) { return t->time().hour() * 60 + t->time().minute(); };
    if (hours_->isChecked()) out.hours = {minutes(from_), minutes(to_)};
    out.on = on_->isChecked();
    return out;
}

}  // namespace optrel
