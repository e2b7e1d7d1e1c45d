// SPDX-License-Identifier: GPL-3.0-or-later
// Selects the value of the first condition that holds, in place of nested conditional expressions.
#pragma once

#include <initializer_list>
#include <utility>

namespace optrel {

/// Value of the first case whose condition is true, otherwise `otherwise`. All values are evaluated, so they must be
/// cheap.
template <class T>
T first_of(std::initializer_list<std::pair<bool, T>> cases, T otherwise) {
    for (const auto& [holds, value] : cases)
        if (holds) return value;
    return otherwise;
}

}  // namespace optrel
