// SPDX-License-Identifier: GPL-3.0-or-later
// Effect of a broad action on the studio's frames, computed by a worker and shown before the action.
#pragma once

#include <QCheckBox>
#include <QLabel>
#include <QWidget>
#include <functional>
#include <memory>

#include "jobs.h"
#include "studio/rollout/frames_reached.h"

namespace optrel {

class ReachNote : public QWidget {
    Q_OBJECT
public:
    using Look = std::function<FramesReached(const Store&, Progress&)>;
    /// Effect of an edit of the register.
    static Look of(FleetEdit edit);
    /// The worker opens the store by `source`.
    ReachNote(Jobs& jobs, StoreSource source, QWidget* parent = nullptr);
    ~ReachNote() override;

    /// Computes again; a current computation is cancelled.
    void look(Look look);
    /// Shows that there is nothing to compute.
    void clear();
    /// For claims: the user must tick a warning when frames would lose an entry whose registered number they report.
    void guard_register() { guards_register_ = true; }
    /// True when the effect has been shown and the warning, if any, is ticked.
    bool settled() const;

signals:
    void changed();

private:
    struct Looking;
    void show_result(const Looking& done);

    Jobs& jobs_;
    StoreSource source_;
    std::shared_ptr<Looking> looking_;  ///< null: nothing is being computed
    bool guards_register_ = false;
    QLabel* text_;
    QCheckBox* over_register_;
};

}  // namespace optrel
