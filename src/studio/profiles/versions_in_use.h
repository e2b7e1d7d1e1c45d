// SPDX-License-Identifier: GPL-3.0-or-later
// Compares the profile version of a frame's last rollout with the one that it gets now.
#pragma once

#include <map>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "rollout/sheet.h"
#include "studio/profiles/profile_chooser.h"

namespace optrel {

class VersionsInUse {
public:
    explicit VersionsInUse(std::shared_ptr<const std::vector<Profile>> profiles)
        : profiles_(std::move(profiles)), chooser_(profiles_) {}

    struct Change {
        std::string before, after;  ///< names of the versions
        double moves_px = 0;        ///< largest displacement
    };
    /// Empty when the picture stays the same, and when the old version is unknown. `frame`: metadata with the known
    /// lens. Not thread-safe.
    std::optional<Change> change(const Sheet& sheet, const Metadata& frame);

private:
    double moves(const std::string& before, const std::string& after, const Metadata& frame);

    std::shared_ptr<const std::vector<Profile>> profiles_;
    ProfileChooser chooser_;
    std::map<std::string, double> known_;
};

}  // namespace optrel
