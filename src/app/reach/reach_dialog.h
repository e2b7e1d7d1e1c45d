// SPDX-License-Identifier: GPL-3.0-or-later
// Asks before a broad action: what is done, what it would change, and why, where a reason is wanted.
#pragma once

#include <QDialog>
#include <QLineEdit>
#include <QPushButton>

#include "reach/reach_note.h"

namespace optrel {

struct ReachQuestion {
    QString title, heading;
    QString text;  ///< more words on it; empty: none
    QString verb;  ///< of the button that does it, with its key
    QString note;  ///< what the line beneath asks for; empty: there is none
    bool note_needed = false;
    QString doubt;  ///< a warning that has to be ticked; empty: none
    ReachNote::Look look;
    bool claims = false;  ///< frames leave a number of the register only when that is ticked
};

class ReachDialog : public QDialog {
    Q_OBJECT
public:
    ReachDialog(Jobs& jobs, StoreSource source, const ReachQuestion& question, QWidget* parent);
    std::string note() const;

private:
    void refresh();

    const bool note_needed_;
    ReachNote* reach_;
    QLineEdit* note_ = nullptr;
    QCheckBox* doubt_ = nullptr;
    QPushButton* go_;
};

/// Opens the question without waiting; `then` gets the note when the person goes on.
void ask_with_reach(Jobs& jobs, StoreSource source, QWidget* parent, const ReachQuestion& question,
                    std::function<void(const std::string& note)> then);

}  // namespace optrel
