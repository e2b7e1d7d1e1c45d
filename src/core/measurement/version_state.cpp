// SPDX-License-Identifier: GPL-3.0-or-later
#include "measurement/version_state.h"

#include <fmt/format.h>

#include "base/error.h"

namespace optrel {

bool VersionState::was_current(const std::string& time) const {
    if (time.empty()) return is_current();
    for (std::size_t i = 0; i < current.size(); ++i)
        if (current[i].first <= time && ((is_now && i + 1 == current.size()) || time < current[i].second)) return true;
    return false;
}

std::string to_string(VersionEvent::What what) {
    switch (what) {
        case VersionEvent::What::withdraw: return "withdraw";
        case VersionEvent::What::make_current: return "make current";
        default: return "publish";
    }
}

VersionEvent::What version_event_from(const std::string& word) {
    for (const auto what :
         {VersionEvent::What::publish, VersionEvent::What::withdraw, VersionEvent::What::make_current})
        if (to_string(what) == word) return what;
    throw input_error(fmt::format("'{}' is not an event that this version of Optrel knows; update it.", word));
}

}  // namespace optrel
