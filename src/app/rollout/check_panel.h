// SPDX-License-Identifier: GPL-3.0-or-later
// Check of all sidecars: differences from the latest rollout, with a fix for each.
#pragma once

#include <QLabel>
#include <QPushButton>

#include "session/parts.h"
#include "studio/checks/drift.h"
#include "widgets/table.h"

namespace optrel {

class CheckPanel : public QWidget {
    Q_OBJECT
public:
    using Parts = SomeOf<FrameModel, SheetModel, RolloutService, WorkService, Jobs, Messages>;
    explicit CheckPanel(const Parts& parts);

    /// Checks all frames, or continues after an interruption.
    void check();
    /// Fixes the selected findings; without a selection, all that need no person.
    void settle();
    const DriftReport& report() const { return report_; }

private:
    void take(const DriftReport& report);
    void refresh();
    void refresh_buttons();
    std::vector<DriftFinding> to_settle() const;

    Parts parts_;
    bool checked_ = false;
    DriftReport report_;
    TableOf<DriftFinding>* table_;
    QPushButton *check_, *settle_;
    QLabel* summary_;
};

}  // namespace optrel
