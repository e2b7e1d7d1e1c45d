// What a studio does with its store: index frames, know each frame's facts, find its profile, resolve, develop,
// rehearse.
//
// Both the window and the command line stand on this, so that they cannot disagree.
#pragma once

#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "base/output.h"
#include "base/progress.h"
#include "baselines/reach.h"
#include "fleet/identities.h"
#include "fleet/matching.h"
#include "render/develop.h"
#include "rollout/rehearse.h"
#include "rollout/sheet.h"
#include "store/store.h"

namespace optrel {

/// Files of a folder and its sub-folders that could be frames (by extension), sorted by name. Hidden ones are passed
/// over; folders that cannot be looked into, and names that are no UTF-8 and so could not be kept, are told in
/// `problems`. Throws Error(file) when the folder itself cannot be read.
std::vector<std::filesystem::path> frame_files(const std::filesystem::path& folder, std::vector<std::string>& problems);

/// Reads the metadata of files that are new or changed against `known`. What was read is handed to `sink` in portions
/// as it comes, on the calling thread, so that a stop loses little; files that cannot be read are told in `problems`.
/// Returns how many were read.
int index_files(const std::vector<std::filesystem::path>& files, const std::vector<FrameRecord>& known,
                const std::function<void(const std::vector<FrameRecord>&)>& sink, std::vector<std::string>& problems,
                Progress& progress);

/// The runs that a folder holds: one for each body and lens, not measured yet. Files that cannot be read are told in
/// `problems`. Throws Error(input) when none can.
std::vector<RunRecord> runs_of_folder(const std::filesystem::path& folder, const ChartSpec& chart,
                                      std::vector<std::string>& problems, Progress& progress);

/// What is known of a frame.
struct FrameKnowledge {
    BodyAnswer body;
    LensAnswer lens;
    FrameFacts facts;
    Metadata metadata;  ///< with the lens that it is known to have
};
FrameKnowledge know(const std::filesystem::path& path, const Metadata& metadata, const Fleet& fleet);

/// What resolving needs of each frame, in their order. On all cores.
std::vector<FrameFacts> facts_of(const std::vector<FrameRecord>& frames, const Fleet& fleet);

/// The registered label of a frame's body, or what is known of it.
std::string body_label(const FrameFacts& facts, const Fleet& fleet);

/// The bodies of the register as baselines see them; whether files of a body carry a number is told by its frames.
std::vector<FleetBody> fleet_bodies(const Fleet& fleet, const std::vector<FrameRecord>& frames,
                                    const std::vector<FrameFacts>& facts);

/// All that the frames report, with what is claimed and what is proposed.
std::vector<Identity> identities_of(const std::vector<FrameRecord>& frames, const Fleet& fleet);

std::vector<ScopedFrame> scope_of(const std::vector<FrameRecord>& frames, const Fleet& fleet);

/// The facts of a frame that a body would take at an ISO: it records what its frames nearest in ISO did.
FrameFacts facts_for(const Body& body, double iso, const RecordedHabits& habits);

/// The fields that a frame is developed with: those of its sheet, or what the current revision says while nothing is
/// written to it.
ResolvedFrame fields_of(const Sheet& sheet, const FrameFacts& facts, const Resolver& current);

/// The profile that a frame is corrected with, by its fields; an exempt frame gets none. Throws as profile_for() does.
ProfileMatch profile_of(const Sheet& sheet, const ResolvedFrame& fields, const Metadata& frame,
                        const std::vector<Profile>& profiles);

/// The profile that the resolved field lens_profile means for a frame. Throws Error(input) when a fixed one is not in
/// the store.
ProfileMatch profile_for(const ResolvedFrame& fields, const Metadata& frame, const std::vector<Profile>& profiles);
std::optional<AppliedProfile> applied(const ProfileMatch& match, const Metadata& frame);

/// Geometry of a frame's picture; a missing pitch is taken as of a 36 mm wide picture.
PictureGeometry geometry_of(const Metadata& metadata);

/// Develops a frame file with fields and a profile. Thread-safe.
Developed develop_file(const std::filesystem::path& path, const Metadata& metadata, const ResolvedFrame& fields,
                       const std::optional<AppliedProfile>& profile, const Progress& progress);

/// Writes a developed picture, the right way up, as a 16-bit TIFF with an sRGB ICC profile and what the frame's
/// metadata say.
void export_tiff(const std::filesystem::path& out, Existing existing, const Developed& picture,
                 const std::filesystem::path& frame, const Metadata& metadata);

/// What accepting a proposal, or a new claim, does to the register. Claims get an id, the author and the time.
Store::FleetEdit edit_for(const Accepted& accepted);
Store::FleetEdit edit_for_claim(Claim claim);

/// Login name of the person at the machine.
std::string current_author();

}  // namespace optrel
