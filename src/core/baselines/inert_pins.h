// SPDX-License-Identifier: GPL-3.0-or-later
// Fields that have an effect only when another field has a certain value, for example a temperature only with a fixed
// white balance.
#pragma once

#include <string>

#include "baselines/resolver.h"

namespace optrel {

/// Reason why a field has no effect, for example "White balance is as shot"; empty when it has an effect.
std::string why_inert(Field field, const ResolvedFrame& fields);

}  // namespace optrel
