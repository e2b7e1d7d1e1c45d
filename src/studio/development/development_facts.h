// SPDX-License-Identifier: GPL-3.0-or-later
// Everything that the development of a frame depends on.
#pragma once

#include <array>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "films/correct_film.h"
#include "studio/frames/body_measurements.h"
#include "studio/profiles/frame_profile.h"

namespace optrel {

struct FrameDevelopment {
    Metadata metadata;
    ResolvedFrame fields;
    std::optional<AppliedProfile> profile;
    std::string chosen = "none";  ///< name of the profile, for display
    std::string why_none;         ///< reason when no profile was found
    std::string profile_id;       ///< empty: none, or a profile that was never published
    int profile_version = 0;
    std::vector<std::string> accepted_findings;  ///< accepted serious findings of the profile
    int revision = 0;                            ///< revision of the fields; 0: none
    /// Origin of each field that is not neutral: a tier with its revision, the start, a set, or "by hand".
    std::map<Field, std::string> sources;
    std::string written;             ///< time of writing in the account, UTC; empty: now
    std::optional<FilmSource> film;  ///< for a film; the other facts then describe the film
    SensorFacts sensor;              ///< what was measured of the body
    std::string body;                ///< name of the body; empty when it is unknown or there is no store
};

/// Uses a match as the profile of the development, when it is usable.
void take_profile(FrameDevelopment& development, const ProfileMatch& match);

}  // namespace optrel
