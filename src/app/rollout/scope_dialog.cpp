// SPDX-License-Identifier: GPL-3.0-or-later
#include "rollout/scope_dialog.h"

#include <QCompleter>
#include <QHBoxLayout>
#include <QLabel>
#include <QMessageBox>

#include "base/words.h"
#include "widgets/answer_buttons.h"
#include "widgets/place.h"

namespace optrel {
namespace {

constexpr FrameState states[] = {FrameState::untouched, FrameState::on_baseline, FrameState::hand_set,
                                 FrameState::exempt};

QString joined(const std::vector<std::string>& names) {
    QStringList out;
    for (const std::string& n : names) out << q(n);
    return out.join("; ");
}

QSpinBox* iso_box(const char* name, const char* none, const std::optional<int>& now) {
    auto* out = new QSpinBox;
    out->setRange(0, 10000000);
    out->setSpecialValueText(none);
    out->setValue(now.value_or(0));
    out->setAccessibleName(name);
    return out;
}

QLineEdit* day_line(const char* name, const std::string& now) {
    auto* out = new QLineEdit(q(now));
    out->setPlaceholderText("2026-03-01");
    out->setAccessibleName(name);
    return out;
}

QLayout* from_to(QWidget* from, QWidget* to) {
    auto* out = new QHBoxLayout;
    out->addWidget(from);
    out->addWidget(new QLabel("to"));
    out->addWidget(to);
    out->addStretch();
    return out;
}

std::vector<std::string> names_in(const QLineEdit* line) { return listed(line->text().toStdString(), ';'); }

}  // namespace

/// Names separated by semicolons; the last one is completed.
QLineEdit* ScopeDialog::list_line(QFormLayout* form, const char* label, const QStringList& names,
                                  const std::vector<std::string>& now) {
    auto* line = new QLineEdit(joined(now));
    line->setAccessibleName(label);
    line->setPlaceholderText("any; several with ; between");
    auto* completer = new QCompleter(names, line);
    completer->setCaseSensitivity(Qt::CaseInsensitive);
    completer->setFilterMode(Qt::MatchContains);
    completer->setWidget(line);
    connect(line, &QLineEdit::textEdited, completer, [=](const QString& text) {
        completer->setCompletionPrefix(text.section(';', -1).trimmed());
        if (!completer->completionPrefix().isEmpty()) completer->complete();
    });
    connect(completer, qOverload<const QString&>(&QCompleter::activated), line, [=](const QString& chosen) {
        const qsizetype last = line->text().lastIndexOf(';');
        line->setText((last < 0 ? QString() : line->text().left(last + 1) + " ") + chosen);
    });
    form->addRow(label, line);
    return line;
}

ScopeDialog::ScopeDialog(const QString& title, const QString& answer, const FrameScope& scope, const Names& names,
                         bool can_be_kept, std::function<bool(const FrameScope&, const QString& name)> take,
                         QWidget* parent)
    : QDialog(parent), frames_(scope.frames) {
    setWindowTitle(title);
    auto* form = new QFormLayout;
    std::vector<std::string> folders;
    for (const auto& f : scope.folders) folders.push_back(f.string());
    folders_ = list_line(form, "Folder", names.folders, folders);
    beneath_ = new QCheckBox("and those beneath it");
    beneath_->setChecked(scope.beneath);
    form->addRow("", beneath_);
    jobs_ = list_line(form, "Job", {}, scope.jobs);
    jobs_->setToolTip("The name of a folder on the way to a frame");
    bodies_ = list_line(form, "Body", names.bodies, scope.bodies);
    lenses_ = list_line(form, "Lens", names.lenses, scope.lenses);
    iso_from_ = iso_box("ISO from", "any", scope.iso_from);
    iso_to_ = iso_box("ISO to", "any", scope.iso_to);
    form->addRow("ISO", from_to(iso_from_, iso_to_));
    from_ = day_line("Taken from", scope.day_from);
    to_ = day_line("Taken to", scope.day_to);
    form->addRow("Taken", from_to(from_, to_));
    auto* boxes = new QHBoxLayout;
    for (const FrameState s : states) {
        auto* box = new QCheckBox(q(to_string(s)));
        box->setChecked(std::find(scope.states.begin(), scope.states.end(), s) != scope.states.end());
        states_.push_back(box);
        boxes->addWidget(box);
    }
    form->addRow("State", boxes);
    name_ = new QLineEdit;
    name_->setAccessibleName("Keep as");
    name_->setPlaceholderText("a name, to choose it again");
    if (can_be_kept) form->addRow("Keep as", name_);
    auto* note =
        new QLabel("What is left empty is not asked. Several of one kind: any of them; several kinds: all of them.");
    note->setWordWrap(true);
    auto* layout = new QVBoxLayout(this);
    layout->addLayout(form);
    layout->addWidget(note);
    layout->addWidget(answer_buttons(*this, answer, [this, take = std::move(take)] {
        try {
            return take(this->scope(), name_->text().trimmed());
        } catch (const std::exception& error) {
            QMessageBox::warning(this, windowTitle(), q(error.what()));
            return false;
        }
    }));
    resize(560, sizeHint().height());
}

FrameScope ScopeDialog::scope() const {
    FrameScope out;
    for (const std::string& f : names_in(folders_)) out.folders.emplace_back(f);
    out.beneath = out.folders.empty() || beneath_->isChecked();
    out.jobs = names_in(jobs_);
    out.bodies = names_in(bodies_);
    out.lenses = names_in(lenses_);
    if (iso_from_->value() > 0) out.iso_from = iso_from_->value();
    if (iso_to_->value() > 0) out.iso_to = iso_to_->value();
    out.day_from = trimmed(from_->text().toStdString());
    out.day_to = trimmed(to_->text().toStdString());
    for (std::size_t i = 0; i < states_.size(); ++i)
        if (states_[i]->isChecked()) out.states.push_back(states[i]);
    out.frames = frames_;
    return out;
}

}  // namespace optrel
