// SPDX-License-Identifier: GPL-3.0-or-later
// Checks that the effect of a profile on a picture is possible for a lens. A document may contain valid numbers and a
// trusted signature, and still turn pictures black.
#pragma once

#include "optics/profile.h"

namespace optrel {

/// Throws Error(input) that names the lens setting and the place: where the falloff of a colour asks for a gain beyond
/// 64 or below a quarter, or red or blue are displaced by over 5 percent of the half-diagonal, anywhere in the picture.
void require_plausible(const Profile& profile);

/// Throws Error(input), naming the lens setting, when a mapping is not monotonic within the measured radius or the
/// picture, so that two points would have the same image.
void require_unfolded(const Profile& profile);

}  // namespace optrel
