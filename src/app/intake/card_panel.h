// SPDX-License-Identifier: GPL-3.0-or-later
// Import from a card: source, folder and names; preview and result.
#pragma once

#include <QCheckBox>
#include <QLabel>
#include <QLineEdit>

#include "session/parts.h"
#include "studio/intake/card_import.h"
#include "widgets/table.h"

namespace optrel {

class CardPanel : public QWidget {
    Q_OBJECT
public:
    using Parts = SomeOf<FrameModel, RegisterModel, IntakeService, Jobs, Messages>;
    explicit CardPanel(const Parts& parts);

    void set_folders(const QString& card, const QString& to);
    /// Preview of the import.
    void preview();
    void copy();

private:
    ImportOrder order() const;
    QLayout* build_form();
    void show_files(const std::vector<ImportedFile>& files, bool done);

    Parts parts_;
    QLineEdit *card_, *to_, *second_, *name_;
    QCheckBox* baseline_;
    QLabel* summary_;
    QPushButton *preview_, *copy_;
    TableOf<ImportedFile>* files_;
};

}  // namespace optrel
