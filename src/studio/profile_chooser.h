// SPDX-License-Identifier: GPL-3.0-or-later
// Which version of which profile frames get, asked for very many frames: what no profile can tell apart is asked once.
#pragma once

#include <memory>
#include <shared_mutex>
#include <string>
#include <unordered_map>
#include <vector>

#include "baselines/resolver.h"
#include "fleet/matching.h"

namespace optrel {

/// Thread-safe.
class ProfileChooser {
public:
    using Versions = std::vector<Profile>;
    explicit ProfileChooser(std::shared_ptr<const Versions> versions) : versions_(std::move(versions)) {}

    /// As profile_for() says; one that is pinned and not in the store is none, with the reason. `frame` has the lens
    /// that the frame is known to have.
    ProfileMatch of(const ResolvedFrame& fields, const Metadata& frame) const;
    /// "p7@2", or "none".
    std::string in_use(const ResolvedFrame& fields, const Metadata& frame) const;

private:
    std::shared_ptr<const Versions> versions_;
    mutable std::shared_mutex mutex_;
    mutable std::unordered_map<std::string, ProfileMatch> known_;
};

/// "p7@2", or "none".
std::string version_in_use(const ProfileMatch& match);
/// "Lumenfold 35mm f/2.8 version 2" for "p7@2", as far as the versions have it; else as it is.
std::string version_in_words(const std::vector<Profile>& versions, const std::string& in_use);

/// How far places of the picture move at most when one version takes the place of another, px of the frame; `none`
/// corrects nothing.
double largest_move_px(const Profile* before, const Profile* after, const Metadata& frame);

}  // namespace optrel
