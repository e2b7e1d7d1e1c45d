// SPDX-License-Identifier: GPL-3.0-or-later
// A colour profile from a file or a frame: its contents, its effect on a frame, and saving it.
#pragma once

#include <QDialog>
#include <QLabel>

#include "frames/colour_profile.h"
#include "latest_result.h"
#include "session/parts.h"
#include "studio/development/colour_files.h"

namespace optrel {

class ColourDialog : public QDialog {
    Q_OBJECT
public:
    using Parts = SomeOf<FrameModel, ProfileModel, Jobs, Messages>;
    ColourDialog(const Parts& parts, ColourProfile profile, const QString& origin, QWidget* parent = nullptr);

private:
    bool keep();
    void compare();

    Parts parts_;
    const ColourProfile profile_;
    const QString origin_;
    QLabel* difference_;
    LatestResult<ColourChange> latest_;
};

}  // namespace optrel
