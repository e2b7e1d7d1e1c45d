// SPDX-License-Identifier: GPL-3.0-or-later
// The two buttons at the foot of a dialog.
#pragma once

#include <QDialogButtonBox>
#include <functional>

class QDialog;
class QPushButton;

namespace optrel {

/// One that does what the dialog is for, under its own name, and Cancel. `take` says whether the dialog may close then;
/// without it, it always may.
QDialogButtonBox* answer_buttons(QDialog& dialog, const QString& name, std::function<bool()> take = {});
QPushButton* taking(const QDialogButtonBox& buttons);

}  // namespace optrel
