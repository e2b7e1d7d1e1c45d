// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/rollout/rehearsing.h"

#include <optional>

#include "base/error.h"
#include "base/parallel.h"
#include "studio/frames/knowledge.h"
#include "studio/profiles/profile_chooser.h"

namespace optrel {

Rehearsal rehearse_frames(const RehearsalRequest& request, const Fleet& fleet, const Revision& revision,
                          Progress& progress) {
    if (revision.number == 0)
        throw input_error("No revision is published yet, so there is nothing to roll out; publish the draft first.");
    std::optional<SingleThreadScope> alone;
    if (request.one_core) alone.emplace();
    // Avoids copying hundreds of thousands of records when all frames are meant.
    std::vector<FrameRecord> some;
    if (!request.scope.all()) some = frames_of(request.scope, *request.frames, fleet, progress);
    const std::vector<FrameRecord>& frames = request.scope.all() ? *request.frames : some;
    const auto frame = [&](int i) -> const FrameRecord& { return frames[static_cast<std::size_t>(i)]; };
    std::optional<ProfileChooser> profiles;
    ProfileNote note;
    if (request.profiles) {
        profiles.emplace(request.profiles);
        note = [&](int i, const ResolvedFrame& fields) {
            return profiles->in_use(fields, know(frame(i).path, frame(i).metadata, fleet).metadata);
        };
    }
    return rehearse(
        static_cast<int>(frames.size()), [&](int i) { return scoped(frame(i), fleet); }, revision.number,
        Resolver(revision), request.renew_hand_set, progress, note);
}

std::shared_ptr<const std::vector<Profile>> profiles_of(const Store& store) {
    return std::make_shared<const std::vector<Profile>>(store.profiles().all_versions());
}

}  // namespace optrel
