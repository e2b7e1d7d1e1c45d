// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/profiles/profile_file.h"

#include <fmt/format.h>

#include "base/error.h"
#include "base/files.h"

namespace optrel {

Profile read_profile(const std::filesystem::path& path) { return profile_from_json(read_file(path), path.string()); }

std::optional<Profile> already_published(const std::vector<Profile>& versions, const Profile& profile) {
    const std::string wanted = proposed_profile(profile);
    for (const Profile& p : versions)
        if (proposed_profile(p) == wanted) return p;
    return std::nullopt;
}

Profile take_in_profile(Store& store, Profile profile, OtherSettings others) {
    // A file can claim any origin; only a bundle proves its signature.
    if (profile.taken_in) profile.taken_in->key.clear();
    if (const auto there = already_published(store.profiles().all_versions(), profile))
        throw input_error(fmt::format("The store has this very profile of {} already, as {} version {}.", there->name,
                                      there->id, there->version));
    return store.profiles().publish(profile, others);
}

}  // namespace optrel
