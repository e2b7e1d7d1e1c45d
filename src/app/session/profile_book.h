// SPDX-License-Identifier: GPL-3.0-or-later
// What fields can name, as the window holds it: the published lens profiles, and the colour files.
#pragma once

#include <map>
#include <memory>

#include "session/session_part.h"
#include "studio/references.h"

namespace optrel {

class ProfileBook : public SessionPart {
    Q_OBJECT
public:
    ProfileBook(Store& store, Voice& voice);

    /// The newest version of each.
    const std::vector<Profile>& newest() const { return known_.profiles; }
    /// All that fields can name: profiles and colour files.
    const References& references() const { return known_; }
    /// What a value of colour_source names, kept for the next time; null for one that is no file, or is not here.
    std::shared_ptr<const ColourProfile> colour_file(const Value& value) const;
    /// Keeps a colour profile in the store.
    ColourFile keep_colours(const ColourProfile& profile, const std::string& origin);
    /// Name of a profile by its id, for people; the id itself when it is not there.
    QString name(const std::string& id) const;

    // These ask the store each time and throw as it does.
    std::vector<Profile> versions() { return store_.profiles().all_versions(); }
    /// The same for a worker, which opens the store for itself.
    std::function<std::vector<Profile>()> versions_for_worker() const;
    Profile publish(const Profile& profile, bool keep_settings);
    /// A profile that came as a file; see take_in_profile().
    Profile take_in(const Profile& profile);

    /// For a worker, which opens the store for itself.
    StoreSource source() const { return store_.source(); }

    void reload();

private:
    References known_;
    mutable std::map<std::string, std::shared_ptr<const ColourProfile>> fetched_;  ///< by value
};

}  // namespace optrel
