// SPDX-License-Identifier: GPL-3.0-or-later
#include "widgets/answer_buttons.h"

#include <QDialog>
#include <QPushButton>

namespace optrel {

QDialogButtonBox* answer_buttons(QDialog& dialog, const QString& name, std::function<bool()> take) {
    auto* buttons = new QDialogButtonBox(QDialogButtonBox::Ok | QDialogButtonBox::Cancel);
    taking(*buttons)->setText(name);
    QObject::connect(buttons, &QDialogButtonBox::accepted, &dialog, [&dialog, take = std::move(take)] {
        if (!take || take()) dialog.accept();
    });
    QObject::connect(buttons, &QDialogButtonBox::rejected, &dialog, &QDialog::reject);
    return buttons;
}

QPushButton* taking(const QDialogButtonBox& buttons) { return buttons.button(QDialogButtonBox::Ok); }

}  // namespace optrel
