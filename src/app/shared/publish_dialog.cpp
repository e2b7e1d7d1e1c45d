// SPDX-License-Identifier: GPL-3.0-or-later
#include "shared/publish_dialog.h"

#include <QDialogButtonBox>
#include <QPushButton>
#include <QRadioButton>
#include <QScrollArea>
#include <QVBoxLayout>

#include "theme.h"
#include "widgets/answer_buttons.h"
#include "widgets/place.h"

namespace optrel {

PublishDialog::PublishDialog(Jobs& jobs, StoreSource source, const PublishQuestion& question, QWidget* parent)
    : QDialog(parent), settings_word_(question.settings) {
    setWindowTitle("Publish a " + question.what);
    resize(720, question.findings.empty() ? 260 : 480);
    auto* all = new QVBoxLayout(this);
    all->addWidget(heading(question.before ? QString("%1: the version after %2").arg(question.name).arg(question.before)
                                           : question.name + ": the first version"));
    reach_ = new ReachNote(jobs, std::move(source));
    all->addWidget(reach_);
    add_settings(question);
    add_findings(question);
    all->addStretch(1);
    missing_ = new QLabel;
    missing_->setWordWrap(true);
    missing_->setAccessibleDescription("What is still to be decided");
    all->addWidget(missing_);
    auto* buttons = answer_buttons(*this, "&Publish");
    publish_ = taking(*buttons);
    publish_->setAccessibleName("Publish");
    publish_->setObjectName("primary");
    all->addWidget(buttons);
    connect(reach_, &ReachNote::changed, this, &PublishDialog::refresh);
    if (question.look)
        reach_->look(question.look);
    else
        reach_->clear();
    refresh();
}

void PublishDialog::add_findings(const PublishQuestion& question) {
    if (question.findings.empty()) return;
    layout()->addWidget(heading("Serious findings: publish only what you would defend"));
    auto* list = new QWidget;
    auto* down = new QVBoxLayout(list);
    for (const SeriousFinding& f : question.findings) {
        auto* tick = new QCheckBox("Accept " + q(f.name));
        tick->setAccessibleName("Accept " + q(f.name));
        tick->setAccessibleDescription(q(f.text));
        auto* text = new QLabel(q(f.text));
        text->setWordWrap(true);
        auto* reason = new QLineEdit;
        reason->setAccessibleName("Reason for " + q(f.name));
        reason->setPlaceholderText("Why it may be published all the same");
        reason->setMaxLength(300);
        connect(tick, &QCheckBox::toggled, this, &PublishDialog::refresh);
        connect(reason, &QLineEdit::textChanged, this, &PublishDialog::refresh);
        for (QWidget* w : std::initializer_list<QWidget*>{tick, text, reason}) down->addWidget(w);
        rows_.push_back({f.name, tick, reason});
    }
    down->addStretch(1);
    auto* scroll = new QScrollArea;
    scroll->setWidget(list);
    scroll->setWidgetResizable(true);
    scroll->setFrameShape(QFrame::NoFrame);
    static_cast<QVBoxLayout*>(layout())->addWidget(scroll, 1);
}

void PublishDialog::add_settings(const PublishQuestion& question) {
    if (question.missing.isEmpty()) return;
    auto* text = new QLabel(QString("Version %1 has %2 that this measurement does not have: %3.")
                                .arg(question.before)
                                .arg(question.settings, question.missing.join(", ")));
    text->setWordWrap(true);
    layout()->addWidget(text);
    settings_ = new QButtonGroup(this);
    auto* keep = new QRadioButton("&Keep them in the new version");
    auto* drop = new QRadioButton("&Drop them");
    keep->setAccessibleName("Keep the other " + question.settings);
    drop->setAccessibleName("Drop the other " + question.settings);
    settings_->addButton(keep, 0);
    settings_->addButton(drop, 1);
    for (QRadioButton* b : {keep, drop}) layout()->addWidget(b);
    connect(settings_, &QButtonGroup::idToggled, this, &PublishDialog::refresh);
}

void PublishDialog::refresh() {
    QStringList open;
    for (const Row& r : rows_) {
        r.reason->setEnabled(r.tick->isChecked());
        if (!r.tick->isChecked())
            open << q(r.name) + " is not accepted";
        else if (r.reason->text().trimmed().isEmpty())
            open << q(r.name) + " needs a reason";
    }
    if (settings_ && settings_->checkedId() < 0)
        open << "the other " + settings_word_ + " are neither kept nor dropped";
    missing_->setText(open.isEmpty() ? QString() : "Still open: " + open.join("; ") + ".");
    missing_->setVisible(!open.isEmpty());
    publish_->setEnabled(open.isEmpty() && reach_->settled());
}

std::vector<Acceptance> PublishDialog::acceptances() const {
    std::vector<Acceptance> out;
    for (const Row& r : rows_) out.push_back({r.name, r.reason->text().trimmed().toStdString()});
    return out;
}

OtherSettings PublishDialog::others() const {
    if (!settings_) return OtherSettings::drop;  // nothing to drop
    return settings_->checkedId() == 0 ? OtherSettings::keep : OtherSettings::drop;
}

}  // namespace optrel
