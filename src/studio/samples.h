// SPDX-License-Identifier: GPL-3.0-or-later
// Sample frames of a rehearsal: those that change most, by each kind of change, before and after.
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

/// A frame of a rehearsal, and the fields that change more in it than in any other.
struct SampleChoice {
    std::size_t frame = 0;  ///< its place in the rehearsal
    std::vector<Field> fields;
};
/// For each field that changes the frame in which it changes most: numbers by their difference, "inherits" as the
/// field's neutral value; of others the first. Frames that stand for more fields come first; `most` at most.
std::vector<SampleChoice> choose_samples(const Rehearsal& rehearsal, std::size_t most);

/// The frame as its sidecar says now, and as it would say.
struct Sample {
    std::filesystem::path frame;
    std::vector<Field> fields;
    struct Patch {
        cv::Mat3w before, after;  ///< as it is held, encoded in sRGB
    };
    static constexpr int patch_px = 160;
    std::array<Patch, loupe_count>
        patches;                  ///< middle, edge middles and corners at full size, row by row as it is held
    ColourDifference in_patches;  ///< of all pixels of the patches: what sharpening and noise reduction do
    ColourDifference in_picture;  ///< of the whole picture, reduced: what light, colour and geometry do
    std::string problem;          ///< one sentence; empty: it could be developed
};
/// Chooses frames and develops them both ways; each is handed to `sink` as it comes, and what is wrong with one is told
/// in Sample::problem. Throws what the store throws, and Cancelled.
void look_at_samples(Store& store, const Rehearsal& rehearsal, std::size_t most,
                     const std::function<void(Sample)>& sink, Progress& progress);

/// Frames of a profile's lens, one at each of its settings, as they are corrected now and as they would be with this
/// profile published as the next version; at most so many. What the store knows of frames that are not to be had here
/// is passed over. As look_at_samples() otherwise.
void look_at_samples_of_profile(Store& store, const Profile& profile, std::size_t most,
                                const std::function<void(Sample)>& sink, Progress& progress);

}  // namespace optrel
