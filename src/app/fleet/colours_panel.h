// SPDX-License-Identifier: GPL-3.0-or-later
// The colour files that the studio keeps, and the colour profiles that frames of each body carry.
#pragma once

#include <QLabel>
#include <QPushButton>

#include "session/parts.h"
#include "studio/colour_files.h"
#include "widgets/table.h"

namespace optrel {

class ColoursPanel : public QWidget {
    Q_OBJECT
public:
    using Parts = SomeOf<FrameBook, RegisterBook, BaselineBook, ProfileBook, Jobs, Voice>;
    explicit ColoursPanel(const Parts& parts, QWidget* parent = nullptr);

    /// Shows a colour profile from a file, to be kept if wished.
    void open_file(const QString& path);
    /// Null when none is.
    const ColourFile* chosen_file() const;

private:
    void lay_out(QPushButton* take);
    void refresh();
    /// Shows the profile that frames of the chosen line carry, to be kept if wished.
    void open_carried();
    int tiers_with(const ColourFile& file) const;

    Parts parts_;
    std::vector<CarriedName> carried_names_;
    TableOf<ColourFile>* kept_;
    TableOf<CarriedName>* carried_;
    QPushButton* keep_;
    QLabel *hint_, *no_files_, *none_carried_;
};

}  // namespace optrel
