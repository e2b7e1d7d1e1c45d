// SPDX-License-Identifier: GPL-3.0-or-later
// A check of all sidecars: those that are not as the newest rollout left them, each with what settles it.
#pragma once

#include <QLabel>
#include <QPushButton>

#include "session/parts.h"
#include "studio/drift.h"
#include "widgets/table.h"

namespace optrel {

class CheckPanel : public QWidget {
    Q_OBJECT
public:
    using Parts = SomeOf<FrameBook, SheetBook, RolloutDesk, WorkDesk, Jobs, Voice>;
    explicit CheckPanel(const Parts& parts);

    /// Looks at all frames, or goes on where it was ended.
    void check();
    /// Settles what is chosen; where nothing is, all that can be settled without a person.
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
