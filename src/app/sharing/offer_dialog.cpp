// SPDX-License-Identifier: GPL-3.0-or-later
#include "sharing/offer_dialog.h"

#include <QFormLayout>
#include <QPlainTextEdit>

#include "base/words.h"
#include "widgets/answer_buttons.h"
#include "widgets/place.h"

namespace optrel {

OfferDialog::OfferDialog(const Parts& parts, const Profile& profile, QWidget* parent)
    : QDialog(parent),
      parts_(parts),
      profile_(profile),
      key_(SigningKey::load_or_make(own_key_path())),
      offer_(offer_of(profile, "", key_)) {
    setWindowTitle("Give a profile to the exchange");
    auto* layout = new QVBoxLayout(this);
    layout->addWidget(heading(q(offer_.profile.lens)));
    const std::string exchange = parts_.sharing().exchange();
    auto* about = new QLabel(
        QString(
            "The measurement goes to %1, for all to find, signed with your key %2. It says nothing of who measured, "
            "where, from which frames, or the serial number of the lens; below is all that is sent. It cannot be "
            "called back.")
            .arg(exchange.empty() ? "no exchange, since none is settled" : q(exchange),
                 q(key_words(key_.public_key()))));
    about->setWordWrap(true);
    layout->addWidget(about);
    measurer_ = new QLineEdit;
    measurer_->setAccessibleName("Name there");
    measurer_->setPlaceholderText("how your studio wants to be called there; may be left empty");
    auto* form = new QFormLayout;
    auto* name = new QLabel("&Name there");
    name->setBuddy(measurer_);
    form->addRow(name, measurer_);
    layout->addLayout(form);
    shown_ = new QPlainTextEdit;
    shown_->setAccessibleName("What is sent");
    shown_->setReadOnly(true);
    QFont figures("DejaVu Sans Mono");
    figures.setStyleHint(QFont::Monospace);
    shown_->setFont(figures);
    layout->addWidget(shown_, 1);
    auto* buttons = answer_buttons(*this, "&Send", [this] {
        parts_.sharing().send(offer_);
        return true;
    });
    taking(*buttons)->setEnabled(!exchange.empty());
    layout->addWidget(buttons);
    connect(measurer_, &QLineEdit::textChanged, this, &OfferDialog::show_offer);
    show_offer();
    resize(760, 600);
}

void OfferDialog::show_offer() {
    offer_ = offer_of(profile_, measurer_->text().toStdString(), key_);
    shown_->setPlainText(q(offer_.shown));
}

}  // namespace optrel
