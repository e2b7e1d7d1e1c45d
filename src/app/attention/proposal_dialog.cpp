// SPDX-License-Identifier: GPL-3.0-or-later
#include "attention/proposal_dialog.h"

#include <QComboBox>
#include <QDialogButtonBox>
#include <QLabel>
#include <QLineEdit>
#include <QListWidget>
#include <QPushButton>
#include <QTabWidget>
#include <QVBoxLayout>

#include "baselines/field.h"
#include "widgets/place.h"

namespace optrel {

ProposalDialog::ProposalDialog(const SamplesPanel::Parts& parts, const ProposalView& view, bool may_judge,
                               QWidget* parent)
    : QDialog(parent) {
    const ChangeProposal& p = view.proposal;
    setWindowTitle(QString("Proposal %1").arg(p.id));
    resize(1240, 680);
    auto* all = new QVBoxLayout(this);
    auto* head = new QLabel(QString("<b>%1</b><br>%2 proposes a %3, from %4.%5")
                                .arg(q(view.headline).toHtmlEscaped(), q(p.author).toHtmlEscaped(),
                                     q(to_string(p.kind)), q(p.station).toHtmlEscaped(),
                                     p.note.empty() ? QString() : "<br>“" + q(p.note).toHtmlEscaped() + "”"));
    head->setWordWrap(true);
    head->setObjectName("what is proposed");
    all->addWidget(head);
    auto* tabs = new QTabWidget;
    tabs->setDocumentMode(true);
    const auto counted = [](const char* title, const std::vector<std::string>& lines) {
        return QString("%1 (%2)").arg(title).arg(lines.size());
    };
    tabs->addTab(list_of("Changes", view.changes, "It changes no field."), counted("Changes", view.changes));
    tabs->addTab(list_of("Lint", view.lint, "Lint finds nothing in it that is not published already."),
                 counted("Lint", view.lint));
    tabs->addTab(list_of("Reach", view.reach, "It touches no frame that is known."), "Reach");
    tabs->addTab(samples_of(parts, view), "Samples");
    all->addWidget(tabs, 1);

    auto* row = new QHBoxLayout;
    remark_ = new QLineEdit;
    remark_->setPlaceholderText("Remark; needed to send it back");
    remark_->setAccessibleName("Remark");
    field_ = new QComboBox;
    field_->setAccessibleName("Field that the remark is about");
    field_->addItem("no field");
    for (const FieldInfo& f : all_fields()) field_->addItem(q(f.label), q(f.id));
    row->addWidget(remark_, 1);
    row->addWidget(field_);
    all->addLayout(row);
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Close);
    auto* approve = buttons->addButton("&Approve", QDialogButtonBox::AcceptRole);
    back_ = buttons->addButton("&Send back", QDialogButtonBox::ActionRole);
    approve->setAccessibleName("Approve");
    back_->setAccessibleName("Send back");
    all->addWidget(buttons);
    for (QWidget* w : {static_cast<QWidget*>(approve), static_cast<QWidget*>(back_), static_cast<QWidget*>(remark_),
                       static_cast<QWidget*>(field_)})
        w->setVisible(may_judge);
    back_->setEnabled(false);
    connect(remark_, &QLineEdit::textChanged, this,
            [this](const QString& text) { back_->setEnabled(!text.trimmed().isEmpty()); });
    connect(approve, &QPushButton::clicked, this, [this] {
        answer_ = Answer::approve;
        accept();
    });
    connect(back_, &QPushButton::clicked, this, [this] {
        answer_ = Answer::send_back;
        accept();
    });
    connect(buttons, &QDialogButtonBox::rejected, this, &QDialog::reject);
}

QWidget* ProposalDialog::list_of(const QString& name, const std::vector<std::string>& lines, const QString& none) {
    auto* list = new QListWidget;
    list->setAccessibleName(name);
    list->setWordWrap(true);
    for (const std::string& line : lines) list->addItem(q(line));
    if (lines.empty()) {
        list->addItem(none);
        list->item(0)->setFlags(Qt::NoItemFlags);
    }
    return list;
}

QWidget* ProposalDialog::samples_of(const SamplesPanel::Parts& parts, const ProposalView& view) {
    auto* panel = new SamplesPanel(parts);
    panel->show_samples_of([view](const Store& store, std::size_t most, const std::function<void(Sample)>& sink,
                                  Progress& progress) { look_at_samples(store, view, most, sink, progress); },
                           view.profile ? "No frame of this lens is to be had at this station."
                                        : "No field of any frame that is to be had here would change.");
    return panel;
}

std::string ProposalDialog::remark() const { return remark_->text().toStdString(); }

std::string ProposalDialog::field() const { return field_->currentData().toString().toStdString(); }

}  // namespace optrel
