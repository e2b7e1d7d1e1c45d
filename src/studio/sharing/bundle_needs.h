// SPDX-License-Identifier: GPL-3.0-or-later
// Compares a bundle with a studio: shared by viewing (unpacking.cpp) and importing (bundle_taking.cpp).
#pragma once

#include <set>
#include <string>
#include <utility>
#include <vector>

#include "store/store.h"
#include "studio/sharing/bundle_view.h"

namespace optrel {

/// Snapshot of everything in a studio that a bundle may refer to.
struct StudioSnapshot {
    explicit StudioSnapshot(const Store& store);
    std::vector<Profile> profiles;          ///< all versions
    std::vector<Measurement> measurements;  ///< all versions of the other kinds
    Revision draft, current;
    Register entries;
    std::vector<Claim> claims;
    std::set<std::string> colours;  ///< hashes

    /// A profile with the same measurement, whatever its name or origin; null if there is none.
    const Profile* same_profile(const Profile& profile) const;
    /// A measurement of the same subject that does not differ; null when there is none.
    const Measurement* same_measurement(const MeasurementKind& kind, const Measurement& measurement) const;
};

/// "the profile 'Lumenfold 35mm'", for messages.
std::string where_in(const BundlePart& part);
/// The tier with the same conditions; null if there is none.
const Tier* tier_of_conditions(const Revision& draft, const Tier& tier);

/// Checks references: what sets, tiers and baselines of a bundle name must exist in the studio or be imported too.
class BundleNeeds {
public:
    BundleNeeds(const StudioSnapshot& now, const BundleView& view,
                const std::vector<std::pair<BundleKind, std::string>>& coming);
    /// What a part needs and lacks, as text; empty when nothing is missing.
    std::string missing(const BundlePart& part) const;

private:
    std::string missing(const std::vector<std::string>& sets, const Pins& pins) const;
    std::string missing(Field field, const Value& value) const;

    std::set<std::string> profiles_, colours_, sets_;
};

}  // namespace optrel
