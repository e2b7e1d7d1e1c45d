// SPDX-License-Identifier: GPL-3.0-or-later
// Making or updating a named set from a frame's fields: each field is chosen by a person, none silently.
#pragma once

#include <QComboBox>
#include <QDialog>
#include <QTableWidget>

#include "session/parts.h"

namespace optrel {

class SetDialog : public QDialog {
    Q_OBJECT
public:
    using Parts = SomeOf<BaselineBook, Voice>;
    SetDialog(const Parts& parts, const QString& frame, const ResolvedFrame& fields, QWidget* parent);
    /// The draft with the set made or updated. Throws Error(input) for a name that cannot be.
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
