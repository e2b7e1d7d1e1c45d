// SPDX-License-Identifier: GPL-3.0-or-later
// Lint of the draft, live, each finding with a way to mend it.
#pragma once

#include <QLabel>
#include <QPushButton>

#include "baselines/draft_view.h"
#include "widgets/table.h"

namespace optrel {

class LintPanel : public QWidget {
    Q_OBJECT
public:
    explicit LintPanel(DraftView& view, QWidget* parent = nullptr);
    Table& table() { return *findings_; }

signals:
    void counted(int findings);

private:
    void refresh();
    void show_remedy(const LintFinding* finding);
    DraftView& view_;
    QLabel* remedy_;
    QPushButton *mend_, *remark_;
    TableOf<LintFinding>* findings_;
    int ticket_ = 0;  ///< tells the newest question for a remedy from older ones
};

}  // namespace optrel
