// SPDX-License-Identifier: GPL-3.0-or-later
// Whose key it is, as this studio calls them, and whether what it signs counts as measured here.
#pragma once

#include <QDialog>

#include "store/measurers.h"

class QCheckBox;
class QLineEdit;

namespace optrel {

class MeasurerDialog : public QDialog {
    Q_OBJECT
public:
    explicit MeasurerDialog(const Measurer& measurer, QWidget* parent = nullptr);
    Measurer measurer() const;

private:
    Measurer measurer_;
    QLineEdit *name_, *key_;
    QCheckBox* trusted_;
};

}  // namespace optrel
