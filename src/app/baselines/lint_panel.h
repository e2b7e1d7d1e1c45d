// SPDX-License-Identifier: GPL-3.0-or-later
// Lint of the draft, updated after each edit, with a fix for each finding where possible.
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
    int ticket_ = 0;  ///< number of the newest request for a fix; older results are dropped
};

}  // namespace optrel
