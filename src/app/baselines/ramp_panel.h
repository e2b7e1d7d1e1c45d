// SPDX-License-Identifier: GPL-3.0-or-later
// The ramp of the selected field and tier, as curve and table.
#pragma once

#include "baselines/draft_view.h"
#include "widgets/ramp_editor.h"
#include "widgets/table.h"

namespace optrel {

class RampPanel : public QWidget {
    Q_OBJECT
public:
    explicit RampPanel(DraftView& view, QWidget* parent = nullptr);

    RampEditor& editor() { return *editor_; }
    Table& knots() { return *knots_; }

private:
    void refresh();
    void take(const std::vector<RampEditor::Knot>& knots);
    void edit_knot(int row, int column, const QString& text);

    DraftView& view_;
    RampEditor* editor_;
    Table* knots_;
};

}  // namespace optrel
