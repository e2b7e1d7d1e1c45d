// SPDX-License-Identifier: GPL-3.0-or-later
// A bundle beside a studio: what looking at it (unpacking.cpp) and taking it in (bundle_taking.cpp) both ask.
#pragma once

#include <set>
#include <string>
#include <utility>
#include <vector>

#include "studio/unpacking.h"

namespace optrel {

/// What a bundle can meet in a studio, read once.
struct StudioNow {
    explicit StudioNow(Store& store);
    std::vector<Profile> profiles;  ///< all versions
    Revision draft, current;
    Register entries;
    std::vector<Claim> claims;
    std::set<std::string> colours;  ///< hashes

    /// One that says the same, whatever it is called here and however it came; null where there is none.
    const Profile* same_profile(const Profile& profile) const;
};

/// "the profile 'Lumenfold 35mm'", for messages.
std::string where_in(const BundlePart& part);
/// Throws Error(input) for one that cannot be used.
Profile profile_in(const BundlePart& part);
/// The tier of a draft that has the same conditions; null where there is none.
const Tier* tier_of_conditions(const Revision& draft, const Tier& tier);

/// What it would bring to a studio as it is now.
BundleView look_at(Store& store, Bundle bundle, const StudioNow& now);

/// What sets, tiers and baselines of a bundle name has to be here, or come along.
class BundleNeeds {
public:
    BundleNeeds(const StudioNow& now, const BundleView& view,
                const std::vector<std::pair<BundleKind, std::string>>& coming);
    /// What a part of the draft needs and lacks, for people; empty where nothing is, and for all other parts.
    std::string missing(const BundlePart& part) const;

private:
    std::string missing(const std::vector<std::string>& sets, const Pins& pins) const;
    std::string missing(Field field, const Value& value) const;

    std::set<std::string> profiles_, colours_, sets_;
};

}  // namespace optrel
