// SPDX-License-Identifier: GPL-3.0-or-later
// Account of a picture that Optrel wrote, and what has changed since.
#pragma once

#include <QDialog>
#include <QLabel>
#include <filesystem>

#include "latest_result.h"
#include "session/parts.h"
#include "studio/exports/account.h"

namespace optrel {

class AccountDialog : public QDialog {
    Q_OBJECT
public:
    using Parts = SomeOf<ExportService, Jobs>;
    /// Throws Error(input) for a picture without a valid account.
    AccountDialog(const Parts& parts, const std::filesystem::path& picture, QWidget* parent = nullptr);

private:
    QLabel* since_;
    LatestResult<std::vector<std::string>> latest_;
};

}  // namespace optrel
