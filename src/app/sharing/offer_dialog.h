// SPDX-License-Identifier: GPL-3.0-or-later
// What would be sent to the profile exchange, all of it, before it is.
#pragma once

#include <QDialog>

#include "session/parts.h"

class QPlainTextEdit;

namespace optrel {

class OfferDialog : public QDialog {
    Q_OBJECT
public:
    using Parts = SomeOf<SharingService, Messages>;
    /// Throws Error(input) for a profile that is not the studio's own measurement.
    OfferDialog(const Parts& parts, const Profile& profile, QWidget* parent = nullptr);

private:
    void show_offer();

    Parts parts_;
    Profile profile_;
    SigningKey key_;
    ExchangeOffer offer_;
    QLineEdit* measurer_;
    QPlainTextEdit* shown_;
};

}  // namespace optrel
