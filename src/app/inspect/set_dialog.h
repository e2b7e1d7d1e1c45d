// SPDX-License-Identifier: GPL-3.0-or-later
// Creates or updates a set from a frame's fields, which the user chooses one by one.
#pragma once

#include <QComboBox>
#include <QDialog>
#include <QTableWidget>

#include "session/parts.h"

namespace optrel {

class SetDialog : public QDialog {
    Q_OBJECT
public:
    using Parts = SomeOf<BaselineModel, Messages>;
    SetDialog(const Parts& parts, const QString& frame, const ResolvedFrame& fields, QWidget* parent);
    /// The draft with the new or updated set. Throws Error(input) for an invalid name.
    Revision result_draft() const;

private:
    void fill_table();
    void refresh();

    Parts parts_;
    const ResolvedFrame fields_;
    QComboBox* name_;
    QTableWidget* table_;
    QPushButton* save_;
};

}  // namespace optrel
