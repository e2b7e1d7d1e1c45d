// SPDX-License-Identifier: GPL-3.0-or-later
#include "session/register_model.h"

#include "base/station.h"
#include "session/session_edits.h"
#include "studio/fleet/claim.h"

namespace optrel {

RegisterModel::RegisterModel(Store& store, Messages& messages, QUndoStack& undo)
    : SessionPart(store, messages, {"fleet"}), undo_(undo), fleet_(store.registry().fleet()) {
    remember();
}

bool RegisterModel::edit(const QString& what, FleetEdit edit) {
    if (edit.empty()) return true;
    edit.what = what.toStdString();
    undo_.push(new FleetEntry([this](const FleetEdit& e) { return put(e); }, what, std::move(edit)));
    return taken_;
}

bool RegisterModel::put(const FleetEdit& edit) {
    taken_ = messages_.attempt([&] { store_.registry().edit(edit, current_author()); });
    remember();
    reload();
    return taken_;
}

void RegisterModel::reload() {
    messages_.attempt([this] { fleet_ = store_.registry().fleet(); });
    emit changed();
}

}  // namespace optrel
