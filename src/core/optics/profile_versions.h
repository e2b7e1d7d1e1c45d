// SPDX-License-Identifier: GPL-3.0-or-later
// References to profiles: the values of the field lens_profile, and the versions that they refer to.
#pragma once

#include <string>
#include <vector>

#include "optics/profile.h"

namespace optrel {

/// The value of the field lens_profile.
struct ProfileReference {
    enum class Kind {
        none,       ///< "none"
        automatic,  ///< "automatic": the best of the profiles that are current
        named       ///< "ID", "ID@VERSION"
    } kind = Kind::automatic;
    std::string id;
    int version = 0;    ///< 0: the current version
    std::string as_of;  ///< the version that was current at this time, for revisions that fix versions; empty: now

    static ProfileReference parse(const std::string& text);
    std::string text() const;
    bool names(const Profile& profile) const;
    /// The same reference among the versions that were current at a time; a reference with a version stays unchanged.
    ProfileReference at(const std::string& time) const;
};

/// The version that a named reference refers to, or null when the store does not have it.
const Profile* referred_profile(const std::vector<Profile>& versions, const ProfileReference& reference);

/// The value of lens_profile in a revision that fixes the versions which were current when it was published.
std::string fixed_at(const std::string& value, const std::string& time);

}  // namespace optrel
