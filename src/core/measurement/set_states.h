// SPDX-License-Identifier: GPL-3.0-or-later
// Works out from the events which versions are current and which are withdrawn.
#pragma once

#include <string>
#include <vector>

#include "measurement/version_state.h"

namespace optrel {

/// One version, and where its state goes.
struct VersionSlot {
    std::string id;
    int version = 0;
    VersionState* state = nullptr;
};
/// Sets the state of every version by the events, in their order. A version without an event of its publication counts
/// as published before all events. When the current version is withdrawn, the newest version that is not withdrawn
/// takes its place; making a withdrawn version current undoes the withdrawal.
void set_slot_states(const std::vector<VersionSlot>& versions, const std::vector<VersionEvent>& events);

/// The same for anything with the members id, version and state.
template <class Versioned>
void set_states(std::vector<Versioned>& versions, const std::vector<VersionEvent>& events) {
    std::vector<VersionSlot> all;
    all.reserve(versions.size());
    for (Versioned& v : versions) all.push_back({v.id, v.version, &v.state});
    set_slot_states(all, events);
}

}  // namespace optrel
