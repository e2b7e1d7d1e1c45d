// SPDX-License-Identifier: GPL-3.0-or-later
// The values of resolved fields, as numbers and switches.
#pragma once

#include "baselines/resolver.h"

namespace optrel {

inline double number_of(const ResolvedFrame& fields, Field field) { return fields[field].value.number; }
inline bool is_on(const ResolvedFrame& fields, Field field) { return fields[field].value.text == "on"; }

}  // namespace optrel
