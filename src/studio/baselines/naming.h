// SPDX-License-Identifier: GPL-3.0-or-later
// Finds bodies, models, lenses, sets and profiles by the names that users type.
#pragma once

#include <string>
#include <vector>

#include "baselines/tier.h"
#include "fleet/register.h"
#include "optics/profile.h"
#include "store/store.h"

namespace optrel {

/// Snapshot of all names in a store.
class Naming {
public:
    explicit Naming(const Store& store);
    Naming(Register entries, Reported reported) : entries_(std::move(entries)), reported_(std::move(reported)) {}

    // Each throws Error(input): several matches are listed; no match gives similar names.
    std::string body(const std::string& text) const;
    std::string model(const std::string& text) const;
    std::string lens_copy(const std::string& text) const;
    std::string lens_text(const std::string& text) const;
    const Register& entries() const { return entries_; }

private:
    Register entries_;
    Reported reported_;
};

/// Name of a set; ignores case.
std::string set_named(const Revision& revision, const std::string& text);

/// Profile by id (or id@version), or by lens name when it is unambiguous. `profiles` may contain all versions.
const Profile& profile_named(const std::vector<Profile>& profiles, const std::string& text);

/// Value of lens_profile for a profile that the user names: its id, with the version when given.
std::string profile_reference(const std::vector<Profile>& profiles, const std::string& text);

}  // namespace optrel
