// SPDX-License-Identifier: GPL-3.0-or-later
// A correction that others made, by what a frame carries or by a file: in words and as curves, beside those of the
// profile in use.
#pragma once

#include <QDialog>

#include "frames/metadata.h"
#include "optics/profile.h"

namespace optrel {

/// Accepted: it is to be kept as a profile.
class CarriedDialog : public QDialog {
    Q_OBJECT
public:
    /// `own`: it as a profile. `in_use`: the profile that corrects the frame now; null: none does.
    CarriedDialog(const QString& words, const Profile& own, const Profile* in_use, const Metadata& frame,
                  QWidget* parent = nullptr);
};

}  // namespace optrel
