// SPDX-License-Identifier: GPL-3.0-or-later
#include "session/baseline_model.h"

#include "base/station.h"
#include "session/session_edits.h"
#include "studio/baselines/drafting.h"
#include "studio/fleet/claim.h"

namespace optrel {

BaselineModel::BaselineModel(Store& store, Messages& messages, QUndoStack& undo)
    : SessionPart(store, messages, {"draft", "baselines"}),
      undo_(undo),
      draft_(store.baselines().draft()),
      current_(store.baselines().current()) {
    count_changes();
    remember();
}

const std::shared_ptr<const Resolver>& BaselineModel::current_resolver_shared() {
    if (!resolver_ || resolver_of_ != current_.number) {
        resolver_ = std::make_shared<const Resolver>(current_);
        resolver_of_ = current_.number;
    }
    return resolver_;
}

void BaselineModel::edit(const QString& what, const Revision& after) {
    auto entry = std::make_unique<DraftEntry>([this]() -> const Revision& { return draft_; },
                                              [this](const Revision& r) { return put(r); }, what, draft_, after);
    if (!entry->empty()) undo_.push(entry.release());
}

bool BaselineModel::put(const Revision& after) {
    MergedDrafts merged;
    const bool done = messages_.attempt([&] { merged = store_.baselines().edit_draft(draft_, after); });
    if (done) draft_ = std::move(merged.draft);
    remember("draft");  // a revision of another station must still be noticed
    count_changes();
    for (const std::string& refused : merged.refused) messages_.tell(QString::fromStdString(refused), true);
    emit changed();
    return done;
}

Revision BaselineModel::publish(const std::string& note) {
    const Revision r = publish_draft(store_, current_author(), note, &draft_).revision;
    reload();
    return r;
}

StoredBaselines::Returned BaselineModel::return_to(int number, const std::string& note,
                                                   StoredBaselines::DraftThen then) {
    const StoredBaselines::Returned r = store_.baselines().return_to(number, current_author(), note, then);
    reload();
    return r;
}

void BaselineModel::reload() {
    messages_.attempt([this] {
        draft_ = store_.baselines().draft();
        current_ = store_.baselines().current();
        count_changes();
        remember();
    });
    emit changed();
}

void BaselineModel::reload_draft() {
    messages_.attempt([this] {
        draft_ = store_.baselines().draft();
        count_changes();
    });
}

}  // namespace optrel
