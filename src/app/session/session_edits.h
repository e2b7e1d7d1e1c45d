// SPDX-License-Identifier: GPL-3.0-or-later
// Undoable edits of the draft and of the register. An edit that cannot be done leaves the list of edits by itself.
#pragma once

#include <QUndoCommand>

#include "session/session.h"

namespace optrel {

/// Keeps only the tiers and sets that differ, so that two hundred edits of a long draft stay small.
class DraftEntry : public QUndoCommand {
public:
    DraftEntry(Session& session, const QString& what, const Revision& before, const Revision& after);
    void redo() override { apply(after_tiers_, before_tiers_, after_sets_, before_sets_); }
    void undo() override { apply(before_tiers_, after_tiers_, before_sets_, after_sets_); }
    bool empty() const {
        return before_tiers_.empty() && after_tiers_.empty() && before_sets_.empty() && after_sets_.empty();
    }

private:
    void apply(const std::vector<Tier>& in, const std::vector<Tier>& out, const std::vector<PinSet>& sets_in,
               const std::vector<PinSet>& sets_out);

    Session& session_;
    std::vector<Tier> before_tiers_, after_tiers_;
    std::vector<PinSet> before_sets_, after_sets_;
};

class FleetEntry : public QUndoCommand {
public:
    FleetEntry(Session& session, const QString& what, FleetEdit edit)
        : QUndoCommand(what), session_(session), edit_(std::move(edit)) {}
    void redo() override { setObsolete(!session_.put_fleet(edit_)); }
    void undo() override { setObsolete(!session_.put_fleet(edit_.reversed())); }

private:
    Session& session_;
    FleetEdit edit_;
};

}  // namespace optrel
