// SPDX-License-Identifier: GPL-3.0-or-later
// Conditions of a new tier.
#pragma once

#include <QComboBox>
#include <QDialog>
#include <QLineEdit>

#include "session/parts.h"

namespace optrel {

class TierDialog : public QDialog {
    Q_OBJECT
public:
    using Parts = SomeOf<RegisterModel, BaselineModel, Messages>;
    TierDialog(const Parts& parts, QWidget* parent);
    /// Throws Error(input) for invalid conditions.
    Tier tier() const;

private:
    void fill_targets();

    Parts parts_;
    QComboBox *scope_, *target_, *lens_, *kind_;
    QLineEdit *iso_, *name_;
};

}  // namespace optrel
