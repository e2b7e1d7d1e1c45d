// SPDX-License-Identifier: GPL-3.0-or-later
// The indexed frames, and all that follows from them together with register and profiles.
//
// Both are read and worked out off the window's thread; what workers bring back is dropped when a newer question was
// asked meanwhile.
#pragma once

#include <map>
#include <memory>
#include <unordered_map>

#include "baselines/lint.h"
#include "session/profile_book.h"
#include "session/register_book.h"
#include "studio/knowledge.h"
#include "studio/profile_use.h"

namespace optrel {

class Jobs;

/// What follows from frames, register and claims.
struct FleetKnowledge {
    FactsOfFrames facts;  ///< one for each frame
    GroupIndex index;
    const std::vector<FactsGroup>& groups() const { return index.all(); }
    std::vector<FleetBody> bodies;
    RecordedHabits habits;
    double lowest_iso = 100, highest_iso = 12800;  ///< of the frames, at least this range
    std::vector<Identity> identities;
    std::unordered_map<std::string, int> frames_of_body, frames_of_lens;  ///< by id
    std::vector<LensUse> lens_use;
    std::vector<std::string> folders;          ///< in which frames lie, sorted
    std::map<std::string, int> missing_roots;  ///< that have no folder at this station, with their frames
};

class FrameBook : public SessionPart {
    Q_OBJECT
public:
    using Frames = std::vector<FrameRecord>;

    FrameBook(Store& store, Voice& voice, Jobs& jobs, const RegisterBook& entries, const ProfileBook& profiles);

    const Frames& all() const { return *frames_; }
    std::shared_ptr<const Frames> shared() const { return frames_; }
    /// Whether the store has frames, even while they are still being read.
    bool any() const { return any_; }
    const FleetKnowledge& knowledge() const { return *knowledge_; }
    std::shared_ptr<const FleetKnowledge> knowledge_shared() const { return knowledge_; }

    /// Indexes a folder and what lies beneath it.
    void add_folder(const QString& folder);
    void reload();
    /// A root lies here from now on. Throws as StoredRoots::put() does.
    void place_root(const std::string& root, const std::filesystem::path& folder);

signals:
    /// Facts, groups, identities and the use of lenses were worked out anew.
    void knowledge_changed();

private:
    void work_out();

    Jobs& jobs_;
    const RegisterBook& register_;
    const ProfileBook& profiles_;
    std::shared_ptr<const Frames> frames_ = std::make_shared<Frames>();
    bool any_ = false;
    std::shared_ptr<const FleetKnowledge> knowledge_ = std::make_shared<FleetKnowledge>();
    int working_ = 0, reading_ = 0;  ///< numbers of the newest working-out and of the newest reading
};

}  // namespace optrel
