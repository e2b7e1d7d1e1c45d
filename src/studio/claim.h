// SPDX-License-Identifier: GPL-3.0-or-later
// Claims and proposals as edits of the register.
#pragma once

#include <string>

#include "fleet/identities.h"
#include "store/register.h"

namespace optrel {

/// What accepting a proposal, or a new claim, does to the register. Claims get an id, the author and the time.
FleetEdit edit_for(const Accepted& accepted);
FleetEdit edit_for_claim(Claim claim);
/// The claim with its times as files record them, whichever way they are written. Throws Error(input) for what is no
/// time.
Claim with_recorded_times(Claim claim);

}  // namespace optrel
