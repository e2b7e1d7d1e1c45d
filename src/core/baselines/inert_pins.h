// SPDX-License-Identifier: GPL-3.0-or-later
// Fields that do something only where another field has a certain value: a temperature while the white balance is
// fixed, a radius while there is an amount.
#pragma once

#include <string>

#include "baselines/resolver.h"

namespace optrel {

/// Why a field does nothing beside the others, in a few words: "White balance is as shot"; empty: it does something.
std::string why_inert(Field field, const ResolvedFrame& fields);

}  // namespace optrel
