// SPDX-License-Identifier: GPL-3.0-or-later
// Indexed frames, and everything derived from frames, register and profiles.
//
// Workers read and compute; outdated results are dropped.
#pragma once

#include <map>
#include <memory>
#include <unordered_map>

#include "baselines/lint.h"
#include "session/profile_model.h"
#include "session/register_model.h"
#include "studio/fleet/fleet_knowledge.h"

namespace optrel {

class Jobs;

class FrameModel : public SessionPart {
    Q_OBJECT
public:
    using Frames = std::vector<FrameRecord>;

    FrameModel(Store& store, Messages& messages, Jobs& jobs, const RegisterModel& entries,
               const ProfileModel& profiles);

    const Frames& all() const { return *frames_; }
    std::shared_ptr<const Frames> shared() const { return frames_; }
    /// Whether the store has frames, also while they are being read.
    bool any() const { return any_; }
    const FleetKnowledge& knowledge() const { return *knowledge_; }
    std::shared_ptr<const FleetKnowledge> knowledge_shared() const { return knowledge_; }

    /// Indexes a folder and its subfolders.
    void add_folder(const QString& folder);
    void reload();
    /// Sets the folder of a root at this station. Throws as StoredRoots::put() does.
    void place_root(const std::string& root, const std::filesystem::path& folder);

signals:
    /// The derived data has been computed again.
    void knowledge_changed();

private:
    void work_out();

    Jobs& jobs_;
    const RegisterModel& register_;
    const ProfileModel& profiles_;
    std::shared_ptr<const Frames> frames_ = std::make_shared<Frames>();
    bool any_ = false;
    std::shared_ptr<const FleetKnowledge> knowledge_ = std::make_shared<FleetKnowledge>();
    int working_ = 0, reading_ = 0;  ///< numbers of the newest computation and of the newest reading
};

}  // namespace optrel
