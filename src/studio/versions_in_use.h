// SPDX-License-Identifier: GPL-3.0-or-later
// The version of a lens profile that a frame was rolled out with, beside the one that it gets now.
#pragma once

#include <map>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "rollout/sheet.h"
#include "studio/profile_chooser.h"

namespace optrel {

class VersionsInUse {
public:
    explicit VersionsInUse(std::shared_ptr<const std::vector<Profile>> profiles)
        : profiles_(std::move(profiles)), chooser_(profiles_) {}

    struct Change {
        std::string before, after;  ///< as people read them
        double moves_px = 0;        ///< by how much places of the picture move at most
    };
    /// Nothing where the picture stays as it is, and where nobody noted what the frame had. `frame` has the lens that
    /// it is known to have. For one thread.
    std::optional<Change> change(const Sheet& sheet, const Metadata& frame);

private:
    double moves(const std::string& before, const std::string& after, const Metadata& frame);

    std::shared_ptr<const std::vector<Profile>> profiles_;
    ProfileChooser chooser_;
    std::map<std::string, double> known_;
};

}  // namespace optrel
