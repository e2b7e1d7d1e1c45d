// SPDX-License-Identifier: GPL-3.0-or-later
// Sets: named lists of pins, their uses, import and export.
#pragma once

#include <QCheckBox>
#include <QLabel>
#include <QPushButton>

#include "baselines/draft_view.h"
#include "widgets/table.h"

namespace optrel {

class SetsPanel : public QWidget {
    Q_OBJECT
public:
    explicit SetsPanel(DraftView& view, QWidget* parent = nullptr);
    Table& sets() { return *sets_; }
    Table& pins() { return *pins_; }
    void import_from(const QString& path);
    /// The same after the user has confirmed the changes.
    void offer(const QString& path);

    /// Null when none is selected.
    const PinSet* chosen() const;

private:
    void refresh();
    void refresh_pins();
    void edit_set(int row, int column, const QString& text);
    void edit_pin(int row, const QString& text);
    void add_set();
    void delete_set();

    DraftView& view_;
    QLabel* used_;
    QCheckBox* pinned_only_;
    QPushButton *delete_, *export_;
    TableOf<PinSet>* sets_;
    Table* pins_;
};

}  // namespace optrel
