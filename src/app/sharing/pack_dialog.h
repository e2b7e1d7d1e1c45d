// SPDX-License-Identifier: GPL-3.0-or-later
// Packing a bundle: what goes into it, how it is called, whether it is signed, and where it lies.
#pragma once

#include <QDialog>

#include "studio/sharing/packing.h"

class QCheckBox;
class QLineEdit;

namespace optrel {

class PackDialog : public QDialog {
    Q_OBJECT
public:
    /// `what`: in words, what was chosen; `title`: what it is called unless somebody says otherwise; `folder`: where it
    /// would lie.
    PackDialog(const QString& what, const QString& title, const QString& folder, QWidget* parent = nullptr);

    // Once it was accepted.
    BundleLabel label() const;
    bool sign() const;
    std::filesystem::path file() const;

private:
    void choose_file();
    bool may_write();

    QLineEdit *title_, *note_, *sender_, *file_;
    QCheckBox* sign_;
};

}  // namespace optrel
