// SPDX-License-Identifier: GPL-3.0-or-later
// A watched folder and its rules.
#pragma once

#include <QCheckBox>
#include <QComboBox>
#include <QDateTimeEdit>
#include <QDialog>
#include <QLineEdit>
#include <QTimeEdit>
#include <functional>

#include "store/intake.h"

namespace optrel {

class FolderDialog : public QDialog {
    Q_OBJECT
public:
    /// `sets`: names of available sets. `keep` saves the folder and returns whether it succeeded.
    FolderDialog(const IntakeFolder& folder, const QStringList& sets, std::function<bool(const IntakeFolder&)> keep,
                 QWidget* parent = nullptr);
    IntakeFolder folder() const;

private:
    void refresh();

    QLineEdit* folder_;
    QComboBox *what_, *set_;
    QCheckBox *until_, *raw_only_, *unknown_waits_, *hours_, *on_;
    QDateTimeEdit* until_when_;
    QTimeEdit *from_, *to_;
};

}  // namespace optrel
