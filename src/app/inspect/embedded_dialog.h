// SPDX-License-Identifier: GPL-3.0-or-later
// A correction from a frame or a file, compared with the profile in use, as text and curves.
#pragma once

#include <QDialog>

#include "frames/metadata.h"
#include "optics/profile.h"

namespace optrel {

/// Accepted: the correction is to be saved as a profile.
class EmbeddedDialog : public QDialog {
    Q_OBJECT
public:
    /// `own`: the correction as a profile. `in_use`: the profile that corrects the frame now; null: none.
    EmbeddedDialog(const QString& words, const Profile& own, const Profile* in_use, const Metadata& frame,
                   QWidget* parent = nullptr);
};

}  // namespace optrel
