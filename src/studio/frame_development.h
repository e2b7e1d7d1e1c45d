// SPDX-License-Identifier: GPL-3.0-or-later
// What one frame is developed with: by what a store says of it, or by a profile alone.
#pragma once

#include <map>
#include <optional>
#include <string>

#include "films/correct_film.h"
#include "studio/develop_frame.h"

namespace optrel {

class Store;

struct FrameDevelopment {
    Metadata metadata;
    ResolvedFrame fields;
    std::optional<AppliedProfile> profile;
    std::string chosen = "none";  ///< the profile, for people
    std::string why_none;         ///< a reason, where no profile was found
    std::string profile_id;       ///< empty: none, or one that was never published
    int profile_version = 0;
    std::vector<std::string> accepted_findings;  ///< of that profile: serious ones, in words
    int revision = 0;                            ///< of the baseline that the fields are of; 0: none
    /// Who said what of the fields that are not neutral: a tier with its revision, the start, a set, or by hand.
    std::map<Field, std::string> sources;
    std::string written;            ///< when the account of the picture says that it was written, UTC; empty: now
    std::optional<FilmTaken> film;  ///< of a film, which the other facts then are of
    std::string body;               ///< what the studio calls it; empty where there is no store, or it is not known
};

/// Takes a match as the profile that the frame is developed with, when it is usable.
void take_profile(FrameDevelopment& development, const ProfileMatch& match);

/// As the store, the frame's sheet and its profile say; of a film as the rules of the studio say. Throws Error as
/// reading them does.
FrameDevelopment development_from_store(Store& store, const std::filesystem::path& frame);
/// Neutral, with a profile from a file. Throws Error(input) when the profile does not fit the frame (profile_fit.h),
/// unless `anyway`.
FrameDevelopment development_from_profile(const std::filesystem::path& profile, const std::filesystem::path& frame,
                                          bool anyway);
/// Neutral, without a profile.
FrameDevelopment bare_development(const std::filesystem::path& frame);

/// "pitch=2.5": a field by hand for this once. Throws Error(usage) or Error(input) that says what is wrong with it.
void set_field(FrameDevelopment& development, const std::string& assignment);

}  // namespace optrel
