// SPDX-License-Identifier: GPL-3.0-or-later
// References to profiles: what the field lens_profile names, and which version that means.
#pragma once

#include <string>
#include <vector>

#include "optics/profile.h"

namespace optrel {

/// What a value of the field lens_profile names.
struct ProfileReference {
    enum class Kind {
        none,       ///< "none"
        automatic,  ///< "automatic": the best of the profiles that are current
        named       ///< "ID", "ID@VERSION"
    } kind = Kind::automatic;
    std::string id;
    int version = 0;    ///< 0: the one that is current
    std::string as_of;  ///< current at this time, where a revision fixes versions; empty: now

    static ProfileReference parse(const std::string& text);
    std::string text() const;
    bool names(const Profile& profile) const;
    /// The same among the versions that were current at a time; one that names a version stays as it is.
    ProfileReference at(const std::string& time) const;
};

/// The version that a named reference means, or null where the store has none such.
const Profile* referred_profile(const std::vector<Profile>& versions, const ProfileReference& reference);

/// "lens_profile" of a revision that fixes the versions which were current when it was published.
std::string fixed_at(const std::string& value, const std::string& time);

}  // namespace optrel
