// SPDX-License-Identifier: GPL-3.0-or-later
// A colour profile from a file or from a frame: what it holds, how it would move the colours of a frame, and keeping
// it.
#pragma once

#include <QDialog>
#include <QLabel>

#include "frames/colour_profile.h"
#include "latest.h"
#include "session/parts.h"
#include "studio/colour_files.h"

namespace optrel {

class ColourDialog : public QDialog {
    Q_OBJECT
public:
    using Parts = SomeOf<FrameBook, ProfileBook, Jobs, Voice>;
    ColourDialog(const Parts& parts, ColourProfile profile, const QString& origin, QWidget* parent = nullptr);

private:
    bool keep();
    void compare();

    Parts parts_;
    const ColourProfile profile_;
    const QString origin_;
    QLabel* difference_;
    Latest<ColourChange> latest_;
};

}  // namespace optrel
