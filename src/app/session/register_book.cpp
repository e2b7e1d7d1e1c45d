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

bool RegisterBook::edit(const QString& what, FleetEdit edit) {
    if (edit.empty()) return true;
    edit.what = what.toStdString();
    undo_.push(new FleetEntry(*this, what, std::move(edit)));
    return taken_;
}

bool RegisterBook::put(const FleetEdit& edit) {
    taken_ = voice_.attempt([&] { store_.registry().edit(edit, current_author()); });
    remember();
    reload();
    return taken_;
}

void RegisterBook::reload() {
    voice_.attempt([this] { fleet_ = store_.registry().fleet(); });
    emit changed();
}

}  // namespace optrel
