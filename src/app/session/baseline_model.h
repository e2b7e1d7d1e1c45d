// SPDX-License-Identifier: GPL-3.0-or-later
// Draft and newest revision of the baseline, with undoable edits of the draft.
#pragma once

#include <QUndoStack>
#include <memory>

#include "baselines/difference.h"
#include "baselines/resolver.h"
#include "session/session_part.h"

namespace optrel {

class BaselineModel : public SessionPart {
    Q_OBJECT
public:
    BaselineModel(Store& store, Messages& messages, QUndoStack& undo);

    const Revision& draft() const { return draft_; }
    const Revision& current() const { return current_; }
    /// Resolver for the current revision.
    const Resolver& current_resolver() { return *current_resolver_shared(); }
    const std::shared_ptr<const Resolver>& current_resolver_shared();
    /// Number of differences between the draft and the current revision.
    int pending_changes() const { return pending_changes_; }

    /// Undoable edit of the draft. Only the differences are kept and saved.
    void edit(const QString& what, const Revision& after);
    /// Publishes the shown draft. This and the following functions throw as the store does.
    Revision publish(const std::string& note);
    StoredBaselines::Returned return_to(int number, const std::string& note, StoredBaselines::DraftThen then);

    // Reads from the store each time.
    std::vector<Revision> revisions() { return store_.baselines().revisions(); }
    std::optional<Revision> revision(int number) { return store_.baselines().revision(number); }

    void reload();
    /// Reloads the register's additions to the start, which are part of the draft; call it before announcing a change
    /// of the register.
    void reload_draft();

private:
    friend class DraftEntry;
    bool put(const Revision& after);
    void count_changes() { pending_changes_ = static_cast<int>(difference(current_, draft_).size()); }

    QUndoStack& undo_;
    Revision draft_, current_;
    int pending_changes_ = 0;
    std::shared_ptr<const Resolver> resolver_;
    int resolver_of_ = -1;  ///< number of the revision that it was made from
};

}  // namespace optrel
