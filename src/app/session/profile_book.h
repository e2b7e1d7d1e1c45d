// SPDX-License-Identifier: GPL-3.0-or-later
// The published lens profiles as the window holds them.
#pragma once

#include "session/session_part.h"

namespace optrel {

class ProfileBook : public SessionPart {
    Q_OBJECT
public:
    ProfileBook(Store& store, Voice& voice);

    /// The newest version of each.
    const std::vector<Profile>& newest() const { return profiles_; }
    /// Name of a profile by its id, for people; the id itself when it is not there.
    QString name(const std::string& id) const;

    // These ask the store each time and throw as it does.
    std::vector<Profile> versions() { return store_.profiles().all_versions(); }
    /// The same for a worker, which opens the store for itself.
    std::function<std::vector<Profile>()> versions_for_worker() const;
    Profile publish(const Profile& profile, bool keep_settings);
    /// A profile that came as a file; see take_in_profile().
    Profile take_in(const Profile& profile);

    void reload();

private:
    std::vector<Profile> profiles_;
};

}  // namespace optrel
