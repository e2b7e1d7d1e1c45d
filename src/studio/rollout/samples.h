// SPDX-License-Identifier: GPL-3.0-or-later
// Sample frames of a rehearsal, before and after: for each kind of change the frame with the largest.
#pragma once

#include <array>
#include <filesystem>
#include <functional>
#include <vector>

#include "base/progress.h"
#include "render/cielab.h"
#include "rollout/rehearse.h"
#include "scene/loupe_places.h"
#include "store/store.h"

namespace optrel {

/// A frame, and the fields whose largest change it shows.
struct SampleChoice {
    std::size_t frame = 0;  ///< index in the rehearsal
    std::vector<Field> fields;
};
/// For each changed field, the frame with the largest change: numbers by difference, with "inherits" as the neutral
/// value; other fields by the first frame. Frames for several fields come first; at most `most` frames.
std::vector<SampleChoice> choose_samples(const Rehearsal& rehearsal, std::size_t most);

/// A frame developed by its current sidecar, and by the new one.
struct Sample {
    std::filesystem::path frame;
    std::vector<Field> fields;
    struct Patch {
        cv::Mat3w before, after;  ///< display orientation, sRGB
    };
    static constexpr int patch_px = 160;
    std::array<Patch, loupe_count> patches;  ///< centre, edge centres and corners at full size, row by row
    ColourDifference in_patches;  ///< mean colour difference over the patches: effect of sharpening and noise reduction
    ColourDifference
        in_picture;       ///< mean colour difference of the reduced picture: effect of light, colour and geometry
    std::string problem;  ///< reason why it could not be developed; empty: none
};
/// Chooses frames and develops both versions; each is passed to `sink` when ready, with errors in Sample::problem.
/// Throws errors of the store, and Cancelled.
void look_at_samples(const Store& store, const Rehearsal& rehearsal, std::size_t most,
                     const std::function<void(Sample)>& sink, Progress& progress);

/// Frames of a profile's lens, one for each setting, with the current correction and with this profile; at most `most`.
/// Frames whose files are missing are skipped. Otherwise as look_at_samples().
void look_at_samples_of_profile(const Store& store, const Profile& profile, std::size_t most,
                                const std::function<void(Sample)>& sink, Progress& progress);

}  // namespace optrel
