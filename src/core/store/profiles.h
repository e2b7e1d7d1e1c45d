// SPDX-License-Identifier: GPL-3.0-or-later
// The published profiles of a store.
#pragma once

#include <vector>

#include "optics/profile.h"

namespace optrel {

class Engine;

/// A profile without what publishing adds to it: by that it is proposed, and found again when it is published.
std::string proposed_profile(Profile profile);

/// What becomes of lens settings of the version before that a new one does not have. ask: where there are some, nothing
/// is published, and the error names them.
enum class OtherSettings { ask, keep, drop };

class StoredProfiles {
public:
    explicit StoredProfiles(Engine& engine) : engine_(engine) {}

    /// The current version of each profile, by name; of one whose versions are all withdrawn none.
    std::vector<Profile> current();
    /// All versions with their states, by name, the newest of each first.
    std::vector<Profile> all_versions();
    /// What happened to versions, oldest first.
    std::vector<VersionEvent> events();
    /// Publishes as the next version of the same lens and camera (same_subject); returns it with id and version.
    /// Published versions never change. Throws Error(input) for a serious finding that nobody has accepted, and when
    /// lens settings would be dropped that `others` does not give up.
    Profile publish(Profile profile, OtherSettings others = OtherSettings::ask);

    /// Frames that got it get the newest version that is not withdrawn, or none. Throws Error(input) for a version
    /// that is not there, one that is withdrawn already, and without a reason.
    void withdraw(const std::string& id, int version, const std::string& reason, const std::string& author);
    /// Takes a withdrawal back as well. Throws Error(input) for a version that is not there, or current already.
    void make_current(const std::string& id, int version, const std::string& reason, const std::string& author);

private:
    Profile required(const std::string& id, int version);
    void tell(const VersionEvent& event, const std::string& author);

    Engine& engine_;
};

}  // namespace optrel
