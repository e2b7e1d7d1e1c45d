// SPDX-License-Identifier: GPL-3.0-or-later
// Undoable edits of the draft and of the register. An edit that cannot be done leaves the list of edits by itself.
#pragma once

#include <QUndoCommand>
#include <functional>

#include "baselines/tier.h"
#include "store/register.h"

namespace optrel {

/// Keeps only the tiers and sets that differ, so that two hundred edits of a long draft stay small.
class DraftEntry : public QUndoCommand {
public:
    /// `draft` gives the draft as it is now, `put` keeps another one; false: it could not be kept.
    DraftEntry(std::function<const Revision&()> draft, std::function<bool(const Revision&)> put, const QString& what,
               const Revision& before, const Revision& after);
    void redo() override { apply(after_tiers_, before_tiers_, after_sets_, before_sets_); }
    void undo() override { apply(before_tiers_, after_tiers_, before_sets_, after_sets_); }
    bool empty() const {
        return before_tiers_.empty() && after_tiers_.empty() && before_sets_.empty() && after_sets_.empty();
    }

private:
    void apply(const std::vector<Tier>& in, const std::vector<Tier>& out, const std::vector<PinSet>& sets_in,
               const std::vector<PinSet>& sets_out);

    std::function<const Revision&()> draft_;
    std::function<bool(const Revision&)> put_;
    std::vector<Tier> before_tiers_, after_tiers_;
    std::vector<PinSet> before_sets_, after_sets_;
};

class FleetEntry : public QUndoCommand {
public:
    FleetEntry(std::function<bool(const FleetEdit&)> put, const QString& what, FleetEdit edit)
        : QUndoCommand(what), put_(std::move(put)), edit_(std::move(edit)) {}
    void redo() override { setObsolete(!put_(edit_)); }
    void undo() override { setObsolete(!put_(edit_.reversed())); }

private:
    std::function<bool(const FleetEdit&)> put_;
    FleetEdit edit_;
};

}  // namespace optrel
