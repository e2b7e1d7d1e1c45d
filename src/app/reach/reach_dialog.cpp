// SPDX-License-Identifier: GPL-3.0-or-later
#include "reach/reach_dialog.h"

#include <QVBoxLayout>

#include "widgets/answer_buttons.h"
#include "widgets/place.h"

namespace optrel {

ReachDialog::ReachDialog(Jobs& jobs, StoreSource source, const ReachQuestion& question, QWidget* parent)
    : QDialog(parent), note_needed_(question.note_needed) {
    setWindowTitle(question.title);
    resize(600, 240);
    auto* down = new QVBoxLayout(this);
    auto* what = heading(question.heading);
    what->setWordWrap(true);
    down->addWidget(what);
    if (!question.text.isEmpty()) {
        auto* text = new QLabel(question.text);
        text->setWordWrap(true);
        down->addWidget(text);
    }
    reach_ = new ReachNote(jobs, std::move(source));
    if (question.claims) reach_->guard_register();
    down->addWidget(reach_);
    down->addStretch(1);
    if (!question.doubt.isEmpty()) {
        auto* why = new QLabel(question.doubt);
        why->setWordWrap(true);
        doubt_ = new QCheckBox("Do it all the same");
        doubt_->setAccessibleName("Do it all the same");
        doubt_->setAccessibleDescription(question.doubt);
        connect(doubt_, &QCheckBox::toggled, this, &ReachDialog::refresh);
        down->addWidget(why);
        down->addWidget(doubt_);
    }
    if (!question.note.isEmpty()) {
        note_ = new QLineEdit;
        note_->setAccessibleName(question.note);
        note_->setMaxLength(300);
        connect(note_, &QLineEdit::textChanged, this, &ReachDialog::refresh);
        down->addWidget(new QLabel(question.note + ":"));
        down->addWidget(note_);
    }
    auto* buttons = answer_buttons(*this, question.verb);
    go_ = taking(*buttons);
    go_->setAccessibleName(QString(question.verb).remove('&'));
    go_->setObjectName("primary");
    down->addWidget(buttons);
    connect(reach_, &ReachNote::changed, this, &ReachDialog::refresh);
    reach_->look(question.look);
    refresh();
}

std::string ReachDialog::note() const { return note_ ? note_->text().trimmed().toStdString() : std::string(); }

void ReachDialog::refresh() {
    go_->setEnabled(reach_->settled() && (!doubt_ || doubt_->isChecked()) && (!note_needed_ || !note().empty()));
}

void ask_with_reach(Jobs& jobs, StoreSource source, QWidget* parent, const ReachQuestion& question,
                    std::function<void(const std::string& note)> then) {
    auto* dialog = new ReachDialog(jobs, std::move(source), question, parent);
    dialog->setAttribute(Qt::WA_DeleteOnClose);
    QObject::connect(dialog, &QDialog::accepted, parent, [dialog, then = std::move(then)] { then(dialog->note()); });
    dialog->open();
}

}  // namespace optrel
