// SPDX-License-Identifier: GPL-3.0-or-later
// Lens profiles as a kind of measurement.
#pragma once

#include "measurement/kind.h"
#include "optics/profile.h"

namespace optrel {

const MeasurementKind& lens_profile_kind();

/// The part of a profile that every measurement has. The document is empty.
Measurement measurement_of(const Profile& profile);

/// The document without id, version and source, so that equal measurements have equal texts.
std::string measurement_in(const Profile& profile);

/// The same for two profiles of one lens (in any spelling), one copy, one camera, one picture size and one origin, made
/// here or taken in from the same signer; empty for a profile that nobody signed, which is the version of no other.
std::string subject_key(const Profile& profile);

}  // namespace optrel
