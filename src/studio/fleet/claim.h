// SPDX-License-Identifier: GPL-3.0-or-later
// Converts claims and proposals into edits of the register.
#pragma once

#include <string>

#include "fleet/identities.h"
#include "store/register.h"

namespace optrel {

/// Edit for accepting a proposal or adding a claim. Claims get an id, the author and the time.
FleetEdit edit_for(const Accepted& accepted);
FleetEdit edit_for_claim(Claim claim);
/// Converts the times of a claim to the form of Exif. Throws Error(input) for an invalid time.
Claim with_recorded_times(Claim claim);

}  // namespace optrel
