// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/people.h"

#include <fmt/format.h>

#include "base/error.h"
#include "base/words.h"

namespace optrel {

std::string to_string(Role role) {
    constexpr const char* names[] = {"looks", "works", "approves", "keeps"};
    return names[static_cast<int>(role)];
}

Role role_named(const std::string& name) {
    std::vector<std::string> names;
    for (const Role role : {Role::looks, Role::works, Role::approves, Role::keeps}) {
        if (lowered(trimmed(name)) == to_string(role)) return role;
        names.push_back(to_string(role));
    }
    throw input_error(fmt::format("There is no role '{}'{}; choose looks, works, approves or keeps.", printable(name),
                                  nearest_clause(name, names)));
}

}  // namespace optrel
