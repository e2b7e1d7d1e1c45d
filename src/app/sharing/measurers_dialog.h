// SPDX-License-Identifier: GPL-3.0-or-later
// The keys that this studio knows, and its own.
#pragma once

#include <QDialog>

#include "session/parts.h"
#include "widgets/table.h"

namespace optrel {

class MeasurersDialog : public QDialog {
    Q_OBJECT
public:
    using Parts = SomeOf<SharingService, Messages>;
    explicit MeasurersDialog(const Parts& parts, QWidget* parent = nullptr);

private:
    QHBoxLayout* button_row();
    void refresh();
    void edit(Measurer measurer);
    void forget();
    const Measurer* chosen() const;

    Parts parts_;
    std::vector<Measurer> measurers_;
    TableOf<Measurer>* list_;
    QLabel *none_, *said_;
    QPushButton *edit_, *forget_;
};

}  // namespace optrel
