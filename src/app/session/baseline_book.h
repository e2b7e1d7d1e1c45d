// SPDX-License-Identifier: GPL-3.0-or-later
// The draft and the newest revision of the baseline as the window holds them, and the undoable edits of the draft.
#pragma once

#include <QUndoStack>
#include <memory>

#include "baselines/difference.h"
#include "baselines/resolver.h"
#include "session/session_part.h"

namespace optrel {

class BaselineBook : public SessionPart {
    Q_OBJECT
public:
    BaselineBook(Store& store, Voice& voice, QUndoStack& undo);

    const Revision& draft() const { return draft_; }
    const Revision& current() const { return current_; }
    /// The current revision, ready to resolve.
    const Resolver& current_resolver() { return *current_resolver_shared(); }
    const std::shared_ptr<const Resolver>& current_resolver_shared();
    /// How many things differ between the draft and the current revision.
    int pending_changes() const { return pending_changes_; }

    /// An undoable edit of the draft. Only what differs is kept and written.
    void edit(const QString& what, const Revision& after);
    /// Publishes the draft as it is shown. Throws as the store does, and so do the following.
    Revision publish(const std::string& note);
    StoredBaselines::Returned return_to(int number, const std::string& note, StoredBaselines::DraftThen then);

    // Read from the store each time.
    std::vector<Revision> revisions() { return store_.baselines().revisions(); }
    std::optional<Revision> revision(int number) { return store_.baselines().revision(number); }

    void reload();
    /// What the register adds to a start is part of the draft; to be called before anybody hears of a changed register.
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
