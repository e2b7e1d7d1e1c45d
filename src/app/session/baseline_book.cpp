// SPDX-License-Identifier: GPL-3.0-or-later
#include "session/baseline_book.h"

#include "base/station.h"
#include "session/session_edits.h"
#include "studio/claim.h"
#include "studio/drafting.h"

namespace optrel {

BaselineBook::BaselineBook(Store& store, Voice& voice, QUndoStack& undo)
    : SessionPart(store, voice, {"draft", "baselines"}),
      undo_(undo),
      draft_(store.baselines().draft()),
      current_(store.baselines().current()) {
    count_changes();
    remember();
}

const std::shared_ptr<const Resolver>& BaselineBook::current_resolver_shared() {
    if (!resolver_ || resolver_of_ != current_.number) {
        resolver_ = std::make_shared<const Resolver>(current_);
        resolver_of_ = current_.number;
    }
    return resolver_;
}

void BaselineBook::edit(const QString& what, const Revision& after) {
    auto entry = std::make_unique<DraftEntry>(*this, what, draft_, after);
    if (!entry->empty()) undo_.push(entry.release());
}

bool BaselineBook::put(const Revision& after) {
    MergedDrafts merged;
    const bool done = voice_.attempt([&] { merged = store_.baselines().edit_draft(draft_, after); });
    if (done) draft_ = std::move(merged.draft);
    remember("draft");  // what another station published meanwhile is still to be noticed
    count_changes();
    for (const std::string& refused : merged.refused) voice_.tell(QString::fromStdString(refused), true);
    emit changed();
    return done;
}

Revision BaselineBook::publish(const std::string& note) {
    const Revision r = publish_draft(store_, current_author(), note, &draft_).revision;
    reload();
    return r;
}

StoredBaselines::Returned BaselineBook::return_to(int number, const std::string& note,
                                                  StoredBaselines::DraftThen then) {
    const StoredBaselines::Returned r = store_.baselines().return_to(number, current_author(), note, then);
    reload();
    return r;
}

void BaselineBook::reload() {
    voice_.attempt([this] {
        draft_ = store_.baselines().draft();
        current_ = store_.baselines().current();
        count_changes();
        remember();
    });
    emit changed();
}

void BaselineBook::reload_draft() {
    voice_.attempt([this] {
        draft_ = store_.baselines().draft();
        count_changes();
    });
}

}  // namespace optrel
