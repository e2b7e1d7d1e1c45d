// SPDX-License-Identifier: GPL-3.0-or-later
// Determines body, lens and baseline facts of frames.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "baselines/reach.h"
#include "fleet/identities.h"
#include "rollout/rehearse.h"
#include "store/frames.h"

namespace optrel {

/// Everything known about a frame.
struct FrameKnowledge {
    BodyAnswer body;
    LensAnswer lens;
    FrameFacts facts;
    Metadata metadata;  ///< metadata with the known lens and the registered pixel pitch
};
FrameKnowledge know(const std::filesystem::path& path, const Metadata& metadata, const Fleet& fleet);

/// Facts of all frames for resolving, in order. Uses all cores.
FactsOfFrames facts_of(const std::vector<FrameRecord>& frames, const Fleet& fleet);

/// Registered label of the body, or the reported identity.
std::string body_label(const FrameFacts& facts, const Fleet& fleet);

/// Registered bodies in the form that baselines use. Whether files of a body contain a serial number follows from its
/// frames.
std::vector<FleetBody> fleet_bodies(const Fleet& fleet, const std::vector<FrameRecord>& frames,
                                    const FactsOfFrames& facts);

/// All reported identities with their claims and proposals.
std::vector<Identity> identities_of(const std::vector<FrameRecord>& frames, const Fleet& fleet);

ScopedFrame scoped(const FrameRecord& frame, const Fleet& fleet);

/// Facts of a hypothetical frame of a body at an ISO; recorded settings are those of its frames with the nearest ISO.
FrameFacts facts_for(const Body& body, double iso, const RecordedSettings& habits);

}  // namespace optrel
