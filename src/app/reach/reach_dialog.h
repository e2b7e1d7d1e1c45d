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
    QString text = {};  ///< a further explanation; empty: none
    QString verb;       ///< label of the button that carries out the action; & marks its shortcut key
    QString note = {};  ///< label of a line for the person's reason; empty: there is no such line
    bool note_needed = false;
    QString doubt = {};  ///< a warning that the person has to tick; empty: none
    ReachNote::Look look = {};
    bool claims = false;  ///< frames leave a number of the register only when the person ticks that
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
