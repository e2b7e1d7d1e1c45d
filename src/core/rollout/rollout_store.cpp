// SPDX-License-Identifier: GPL-3.0-or-later
#include "rollout/rollout_store.h"

#include <fmt/format.h>

#include "base/error.h"
#include "base/words.h"

namespace optrel {

std::string to_string(RolloutStatus status) {
    constexpr const char* names[] = {"preparing", "writing", "done", "rolling back", "rolled back", "damaged"};
    return names[static_cast<int>(status)];
}

RolloutStatus rollout_status_named(const std::string& name) {
    for (const auto s :
         {RolloutStatus::writing, RolloutStatus::done, RolloutStatus::rolling_back, RolloutStatus::rolled_back})
        if (name == to_string(s)) return s;
    throw input_error(fmt::format("Its status is '{}'.", printable(name.substr(0, 40))));
}

}  // namespace optrel
