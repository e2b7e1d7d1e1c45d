// SPDX-License-Identifier: GPL-3.0-or-later
// The published lens profiles of a store: its measurements of that kind, read as profiles.
#pragma once

#include <vector>

#include "measurement/kind.h"
#include "optics/profile.h"

namespace optrel {

class Engine;

/// A profile without the fields that publishing adds. Proposals are stored and compared in this form.
std::string proposed_profile(const Profile& profile);

class StoredProfiles {
public:
    explicit StoredProfiles(Engine& engine) : engine_(engine) {}

    /// Current version of each profile, ordered by name. Profiles whose versions are all withdrawn are left out.
    std::vector<Profile> current() const;
    /// All versions with their states, ordered by name, newest first.
    std::vector<Profile> all_versions() const;
    /// Publishes a profile as the next version for the same lens and camera (same_subject()); returns it with id and
    /// version. Published versions are immutable. Throws Error(input) for a serious finding that nobody accepted, and
    /// when lens settings would be dropped although `others` does not allow it.
    Profile publish(const Profile& profile, OtherSettings others = OtherSettings::ask);

    /// Withdraws a version: its frames get the newest version that is not withdrawn, or none. Throws Error(input) for
    /// an unknown or withdrawn version, and for an empty reason.
    void withdraw(const std::string& id, int version, const std::string& reason, const std::string& author);
    /// Makes a version current; a withdrawal of it is undone. Throws Error(input) for an unknown version, and for the
    /// current one.
    void make_current(const std::string& id, int version, const std::string& reason, const std::string& author);

private:
    Engine& engine_;
};

}  // namespace optrel
