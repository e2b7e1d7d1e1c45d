// SPDX-License-Identifier: GPL-3.0-or-later
// Chooses profile versions for many frames; frames that no profile can distinguish are looked up once.
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

    /// As profile_for(); a pinned version that is missing gives none, with the reason. `frame`: metadata with the known
    /// lens.
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
/// Name for "p7@2": "Lumenfold 35mm f/2.8 version 2"; unchanged when the version is unknown.
std::string version_in_words(const std::vector<Profile>& versions, const std::string& in_use);

/// Largest displacement in the frame, px, when one version replaces another; "none" means no correction.
double largest_move_px(const Profile* before, const Profile* after, const Metadata& frame);

}  // namespace optrel
