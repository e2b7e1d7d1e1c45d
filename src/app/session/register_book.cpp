// SPDX-License-Identifier: GPL-3.0-or-later
#include "session/register_book.h"

#include "base/station.h"
#include "session/session_edits.h"
#include "studio/claim.h"

namespace optrel {

RegisterBook::RegisterBook(Store& store, Voice& voice, QUndoStack& undo)
    : SessionPart(store, voice, {"fleet"}), undo_(undo), fleet_(store.registry().fleet()) {
    remember();
}

void RegisterBook::edit(const QString& what, FleetEdit edit) {
    if (edit.empty()) return;
    edit.what = what.toStdString();
    undo_.push(new FleetEntry(*this, what, std::move(edit)));
}

bool RegisterBook::put(const FleetEdit& edit) {
    const bool done = voice_.attempt([&] { store_.registry().edit(edit, current_author()); });
    remember();
    reload();
    return done;
}

void RegisterBook::reload() {
    voice_.attempt([this] { fleet_ = store_.registry().fleet(); });
    emit changed();
}

}  // namespace optrel
