// SPDX-License-Identifier: GPL-3.0-or-later
// Viewing and importing bundles.
#pragma once

#include <map>
#include <string>
#include <utility>
#include <vector>

#include "sharing/bundle.h"
#include "store/store.h"

#include "studio/sharing/bundle_view.h"

namespace optrel {

struct StudioSnapshot;

/// A sentence when a bundle of this studio refers to a history row that is missing or changed; otherwise empty.
std::string fault_of_anchor(const Store& store, const Bundle& bundle);

/// Compares every part with the studio, without changes. Unusable parts are reported and do not stop the others.
BundleView look_at(const Store& store, Bundle bundle);
/// The same with an existing snapshot of the studio.
BundleView look_at(const Store& store, Bundle bundle, const StudioSnapshot& now);

/// Parts to be imported.
struct BundleChoice {
    std::vector<std::pair<BundleKind, std::string>> parts;  ///< kind and id
    std::map<std::string, std::string> set_names;           ///< new names for imported sets
    bool replace = false;                                   ///< replace existing entries that differ
    bool anyway = false;                                    ///< accept unsigned bundles and withdrawn keys
};
/// All usable parts, with or without those that replace something.
BundleChoice all_of(const BundleView& view, bool replace);

struct BundleImport {
    std::vector<std::string> told;          ///< one sentence for each part
    std::vector<Measurement> measurements;  ///< as published here
};
/// Imports parts, all or nothing: measurements are published, entries and claims go to the register, sets, tiers and
/// baselines to the draft, each with its origin. Throws Error(input), without changes, when the choice names unknown
/// parts, lacks dependencies, would replace something without permission, or is out of date.
BundleImport take_from(Store& store, const BundleView& view, const BundleChoice& choice, const std::string& author);

}  // namespace optrel
