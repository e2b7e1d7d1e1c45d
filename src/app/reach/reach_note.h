// SPDX-License-Identifier: GPL-3.0-or-later
// What a broad action would change for the studio's frames, looked at by a worker and shown before the action is done.
#pragma once

#include <QCheckBox>
#include <QLabel>
#include <QWidget>
#include <functional>
#include <memory>

#include "jobs.h"
#include "studio/frames_reached.h"

namespace optrel {

class ReachNote : public QWidget {
    Q_OBJECT
public:
    using Look = std::function<FramesReached(Store&, Progress&)>;
    /// What an edit of the register would change.
    static Look of(FleetEdit edit);
    /// The worker opens the store by `source`.
    ReachNote(Jobs& jobs, StoreSource source, QWidget* parent = nullptr);
    ~ReachNote() override;

    /// Looks anew; what was being looked at before is given up.
    void look(Look look);
    /// Shows that there is nothing to look at.
    void clear();
    /// For claims: when frames would leave an entry of the register whose serial number they report, the person has to
    /// tick that first.
    void guard_register() { guards_register_ = true; }
    /// True when a person has been told what changes, and has ticked what has to be ticked.
    bool settled() const;

signals:
    void changed();

private:
    struct Looking;
    void show_result(const Looking& done);

    Jobs& jobs_;
    StoreSource source_;
    std::shared_ptr<Looking> looking_;  ///< null: nothing is being looked at
    bool guards_register_ = false;
    QLabel* text_;
    QCheckBox* over_register_;
};

}  // namespace optrel
