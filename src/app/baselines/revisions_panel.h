// SPDX-License-Identifier: GPL-3.0-or-later
// Published revisions: comparison of any two, and return to an earlier one.
#pragma once

#include <QComboBox>
#include <QPushButton>

#include "baselines/draft_view.h"
#include "widgets/table.h"

namespace optrel {

class RevisionsPanel : public QWidget {
    Q_OBJECT
public:
    explicit RevisionsPanel(DraftView& view, QWidget* parent = nullptr);
    Table& list() { return *list_; }
    Table& changes() { return *changes_; }

private:
    void refresh();
    void compare();
    void ask_to_return();
    void return_to(int number, const std::string& note);

    DraftView& view_;
    std::vector<Revision> revisions_;
    int read_ = -1;  ///< number of the newest revision that was read
    QComboBox* with_;
    QPushButton* return_;
    TableOf<Revision>* list_;
    TableOf<RevisionChange>* changes_;
};

}  // namespace optrel
