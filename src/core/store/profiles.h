// SPDX-License-Identifier: GPL-3.0-or-later
// The published profiles of a store.
#pragma once

#include <vector>

#include "optics/profile.h"

namespace optrel {

class Engine;

/// A profile without what publishing adds to it: by that it is proposed, and found again when it is published.
std::string proposed_profile(Profile profile);

class StoredProfiles {
public:
    explicit StoredProfiles(Engine& engine) : engine_(engine) {}

    /// The newest version of each profile, by name.
    std::vector<Profile> newest() { return read(false); }
    std::vector<Profile> all_versions() { return read(true); }
    /// Publishes as the next version of the same lens and camera (same_subject); returns it with id and version.
    /// Published versions never change. `keep_settings` takes over the lens settings of the version before that this
    /// one does not have.
    Profile publish(Profile profile, bool keep_settings = false);

private:
    std::vector<Profile> read(bool all_versions);

    Engine& engine_;
};

}  // namespace optrel
