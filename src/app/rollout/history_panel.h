// SPDX-License-Identifier: GPL-3.0-or-later
// History of rollouts of all stations, with actions for the selected one.
#pragma once

#include <QPushButton>
#include <QTimer>
#include <QWidget>
#include <vector>

#include "rollout/rollout_store.h"
#include "session/parts.h"
#include "widgets/table.h"

namespace optrel {

class HistoryPanel : public QWidget {
    Q_OBJECT
public:
    using Parts = SomeOf<RolloutService, Jobs, Messages>;
    explicit HistoryPanel(const Parts& parts);
    /// Reads the history again.
    void refresh();
    /// Null: there is no such row.
    const RolloutRecord* at(int row) const;

signals:
    void difference_asked(int row);
    void resume_asked(int row);
    void back_asked(int row);
    void part_asked(int row);
    void again_asked(int row);

private:
    void build();
    void refresh_buttons(int row);
    void show(std::vector<RolloutRecord> records);
    /// Reads changes of other stations on a worker.
    void look();

    Parts parts_;
    std::vector<RolloutRecord> records_;
    TableOf<RolloutRecord>* table_;
    QPushButton *difference_, *resume_, *back_, *part_, *again_;
    QTimer next_look_;
};

}  // namespace optrel
