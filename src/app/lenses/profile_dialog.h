// SPDX-License-Identifier: GPL-3.0-or-later
// A profile from a file: its contents, and importing it.
#pragma once

#include <QDialog>

#include "session/parts.h"

namespace optrel {

class ProfileDialog : public QDialog {
    Q_OBJECT
public:
    using Parts = SomeOf<ProfileModel, Messages>;
    /// Reads the file. Throws Error(input) when it is no profile.
    ProfileDialog(const Parts& parts, const QString& path, QWidget* parent = nullptr);

private:
    bool take_in();

    Parts parts_;
    Profile profile_;
};

}  // namespace optrel
