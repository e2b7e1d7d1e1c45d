// SPDX-License-Identifier: GPL-3.0-or-later
// A bundle from elsewhere: who stands for it, what it would bring, and which parts of it are taken.
#pragma once

#include <QDialog>

#include "studio/sharing/unpacking.h"

class QCheckBox;
class QLabel;
class QPushButton;
class QTreeWidget;
class QTreeWidgetItem;

namespace optrel {

class BundleDialog : public QDialog {
    Q_OBJECT
public:
    /// `lies_in_folder`: it may be put aside as well.
    BundleDialog(const BundleView& view, bool lies_in_folder, QWidget* parent = nullptr);

    /// Once it was accepted.
    BundleChoice choice() const;
    bool put_aside() const { return put_aside_; }

private:
    QWidget* head() const;
    void fill();
    void update_rows();
    bool replacing() const;
    bool needs_insisting() const;

    BundleView view_;
    QTreeWidget* parts_;
    QLabel* words_;
    QCheckBox *replace_, *anyway_;
    QPushButton* take_;
    bool put_aside_ = false;
};

}  // namespace optrel
