// SPDX-License-Identifier: GPL-3.0-or-later
// The published profiles of a store.
#pragma once

#include <vector>

#include "optics/profile.h"

namespace optrel {

class Engine;

/// A profile without the fields that publishing adds. Proposals are stored and compared in this form.
std::string proposed_profile(Profile profile);

/// What happens to lens settings that the previous version has and the new one lacks. ask: nothing is published, and
/// the error lists them.
enum class OtherSettings { ask, keep, drop };

class StoredProfiles {
public:
    explicit StoredProfiles(Engine& engine) : engine_(engine) {}

    /// Current version of each profile, ordered by name. Profiles whose versions are all withdrawn are left out.
    std::vector<Profile> current();
    /// All versions with their states, ordered by name, newest first.
    std::vector<Profile> all_versions();
    /// Publications, withdrawals and changes of the current version, oldest first.
    std::vector<VersionEvent> events();
    /// Publishes a profile as the next version for the same lens and camera (same_subject()); returns it with id and
    /// version. Published versions are immutable. Throws Error(input) for a serious finding that nobody accepted, and
    /// when lens settings would be dropped although `others` does not allow it.
    Profile publish(Profile profile, OtherSettings others = OtherSettings::ask);

    /// Withdraws a version: its frames get the newest version that is not withdrawn, or none. Throws Error(input) for
    /// an unknown or withdrawn version, and for an empty reason.
    void withdraw(const std::string& id, int version, const std::string& reason, const std::string& author);
    /// Makes a version current; a withdrawal of it is undone. Throws Error(input) for an unknown version, and for the
    /// current one.
    void make_current(const std::string& id, int version, const std::string& reason, const std::string& author);

private:
    Profile required(const std::string& id, int version);
    void tell(const VersionEvent& event, const std::string& author);

    Engine& engine_;
};

}  // namespace optrel
