// SPDX-License-Identifier: GPL-3.0-or-later
// A choice among several by the first condition that holds, as a table instead of conditionals within conditionals.
#pragma once

#include <initializer_list>
#include <utility>

namespace optrel {

/// The value of the first case whose condition holds, else `otherwise`. All values are worked out, so they should be
/// cheap.
template <class T>
T first_of(std::initializer_list<std::pair<bool, T>> cases, T otherwise) {
    for (const auto& [holds, value] : cases)
        if (holds) return value;
    return otherwise;
}

}  // namespace optrel
