// SPDX-License-Identifier: GPL-3.0-or-later
// Colour files of the studio, and colour profiles embedded in frames of each body.
#pragma once

#include <QLabel>
#include <QPushButton>

#include "session/parts.h"
#include "studio/development/colour_files.h"
#include "widgets/table.h"

namespace optrel {

class ColoursPanel : public QWidget {
    Q_OBJECT
public:
    using Parts = SomeOf<FrameModel, RegisterModel, BaselineModel, ProfileModel, Jobs, Messages>;
    explicit ColoursPanel(const Parts& parts, QWidget* parent = nullptr);

    /// Shows a colour profile from a file, to be saved on request.
    void open_file(const QString& path);
    /// Null when none is selected.
    const ColourFile* chosen_file() const;

private:
    void lay_out(QPushButton* take);
    void refresh();
    /// Shows the embedded profile of the selected line, to be saved on request.
    void open_carried();
    int tiers_with(const ColourFile& file) const;

    Parts parts_;
    std::vector<EmbeddedName> carried_names_;
    TableOf<ColourFile>* kept_;
    TableOf<EmbeddedName>* carried_;
    QPushButton* keep_;
    QLabel *hint_, *no_files_, *none_carried_;
};

}  // namespace optrel
