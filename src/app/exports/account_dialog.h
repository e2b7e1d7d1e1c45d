// SPDX-License-Identifier: GPL-3.0-or-later
// What was done to a picture that Optrel wrote, by the account that it carries, and what has changed since.
#pragma once

#include <QDialog>
#include <QLabel>
#include <filesystem>

#include "latest.h"
#include "session/parts.h"
#include "studio/account.h"

namespace optrel {

class AccountDialog : public QDialog {
    Q_OBJECT
public:
    using Parts = SomeOf<ExportDesk, Jobs>;
    /// Throws Error(input) for a picture that carries no account, or one that was changed.
    AccountDialog(const Parts& parts, const std::filesystem::path& picture, QWidget* parent = nullptr);

private:
    QLabel* since_;
    Latest<std::vector<std::string>> latest_;
};

}  // namespace optrel
