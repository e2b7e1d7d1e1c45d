// SPDX-License-Identifier: GPL-3.0-or-later
// What is known of each frame: its body, its lens, and the facts that a baseline asks for.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "baselines/reach.h"
#include "fleet/identities.h"
#include "rollout/rehearse.h"
#include "store/frames.h"

namespace optrel {

/// What is known of a frame.
struct FrameKnowledge {
    BodyAnswer body;
    LensAnswer lens;
    FrameFacts facts;
    Metadata metadata;  ///< with the lens that it is known to have, and the pixel pitch that the register knows
};
FrameKnowledge know(const std::filesystem::path& path, const Metadata& metadata, const Fleet& fleet);

/// What resolving needs of each frame, in their order. On all cores.
FactsOfFrames facts_of(const std::vector<FrameRecord>& frames, const Fleet& fleet);

/// The registered label of a frame's body, or what is known of it.
std::string body_label(const FrameFacts& facts, const Fleet& fleet);

/// The bodies of the register as baselines see them; whether files of a body carry a number is told by its frames.
std::vector<FleetBody> fleet_bodies(const Fleet& fleet, const std::vector<FrameRecord>& frames,
                                    const FactsOfFrames& facts);

/// All that the frames report, with what is claimed and what is proposed.
std::vector<Identity> identities_of(const std::vector<FrameRecord>& frames, const Fleet& fleet);

ScopedFrame scoped(const FrameRecord& frame, const Fleet& fleet);

/// The facts of a frame that a body would take at an ISO: it records what its frames nearest in ISO did.
FrameFacts facts_for(const Body& body, double iso, const RecordedHabits& habits);

}  // namespace optrel
