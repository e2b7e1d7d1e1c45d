// SPDX-License-Identifier: GPL-3.0-or-later
// What a person calls bodies, models, lenses, sets and profiles, found in a store. Window and command line ask the
// same.
#pragma once

#include <string>
#include <vector>

#include "baselines/tier.h"
#include "fleet/register.h"
#include "optics/profile.h"
#include "store/store.h"

namespace optrel {

struct References;

/// A snapshot of everything in a store that has a name.
class Naming {
public:
    explicit Naming(Store& store);
    Naming(Register entries, Reported reported) : entries_(std::move(entries)), reported_(std::move(reported)) {}

    // Each throws Error(input): several matches are told, none is refused with the nearest.
    std::string body(const std::string& text) const;
    std::string model(const std::string& text) const;
    std::string lens_copy(const std::string& text) const;
    std::string lens_text(const std::string& text) const;
    const Register& entries() const { return entries_; }

private:
    Register entries_;
    Reported reported_;
};

/// The name of a set of a baseline; case does not matter.
std::string set_named(const Revision& revision, const std::string& text);

/// A profile by its id (or id@version), or by the name of its lens where that means one. `profiles` may hold all
/// versions.
const Profile& profile_named(const std::vector<Profile>& profiles, const std::string& text);

/// What a value of lens_profile is for a profile that a person names: its id, with the version where that was named.
std::string profile_reference(const std::vector<Profile>& profiles, const std::string& text);

/// A value for a field as a person gives it: profiles, colour files and sets are looked up, everything else is read as
/// value_from_text() does. Throws Error.
Pin pin_named(Field field, const std::string& text, const References& known, const Revision& draft);

}  // namespace optrel
