// SPDX-License-Identifier: GPL-3.0-or-later
// The register with its claims as the window holds it, and its undoable edits.
#pragma once

#include <QUndoStack>
#include <memory>

#include "session/session_part.h"
#include "studio/fleet/fingerprint_claims.h"
#include "studio/rollout/frames_reached.h"

namespace optrel {

class RegisterModel : public SessionPart {
    Q_OBJECT
public:
    RegisterModel(Store& store, Messages& messages, QUndoStack& undo);

    const std::shared_ptr<const Fleet>& fleet() const { return fleet_; }
    const std::vector<Body>& bodies() const { return fleet_->entries().bodies; }
    const std::vector<LensEntry>& lenses() const { return fleet_->entries().lenses; }

    /// An undoable edit of the register and its claims. False when it was refused, for instance because another station
    /// changed the same entry; why is told then.
    bool edit(const QString& what, FleetEdit edit);
    void reload();

    // Read from the store each time; these throw as it does.
    std::vector<HistoryEntry> history(const std::string& kind, const std::string& subject, int most) {
        return store_.registry().history(kind, subject, most);
    }
    /// How many frames may change without a question.
    int without_asking() { return frames_without_asking(store_); }
    /// From which figure on frames that arrive are claimed by their fingerprint; 0: never.
    double claims_from() { return figure_without_asking(store_); }
    void put_claims_from(double figure) { put_figure_without_asking(store_, figure); }
    FleetEdit edit_for(const RegisterImport& import) { return store_.registry().edit_for(import); }

private:
    friend class FleetEntry;
    bool put(const FleetEdit& edit);

    QUndoStack& undo_;
    std::shared_ptr<const Fleet> fleet_;
    bool taken_ = false;  ///< whether the newest edit was
};

}  // namespace optrel
