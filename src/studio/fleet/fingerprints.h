// SPDX-License-Identifier: GPL-3.0-or-later
// Learns the fingerprints of bodies, and recognises by them which body took a frame.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "base/progress.h"
#include "measurement/measurement.h"
#include "store/store.h"

namespace optrel {

struct LearnedFingerprint {
    Measurement published;
    int frames = 0;                     ///< frames that were used
    double agreement = 0;               ///< see Fingerprint
    std::vector<std::string> problems;  ///< one sentence for each frame that was left out
};

/// What happens when a body's flat fields show another sensor than its current fingerprint, as after a repair.
enum class OtherSensor { refuse, accept };

/// Learns the fingerprint of a registered body from raw flat fields, and publishes it as the next version. Frames that
/// cannot be used, or report another body, are left out with the reason. Throws Error(input) when those that remain do
/// not suffice, when they show the sensor of another body, and for another sensor than before unless it is accepted.
LearnedFingerprint learn_fingerprint(Store& store, const std::string& body_id,
                                     const std::vector<std::filesystem::path>& frames, OtherSensor other,
                                     Progress& progress);

/// Which body took a frame.
struct RecognisedFrame {
    std::filesystem::path frame;
    std::string body;          ///< id in the register; empty: none reaches the threshold, or two do
    double z = 0;              ///< of the best fingerprint, see sensor/fingerprint.h
    double second_z = 0;       ///< of the next best
    std::string best, second;  ///< ids of their bodies; empty: not compared
    int compared = 0;          ///< fingerprints of sensors of this size
    std::string problem;       ///< one sentence when the frame could not be compared, or is ambiguous
};

/// Results in the order of the frames. Uses all cores.
std::vector<RecognisedFrame> recognise_frames(const Store& store, const std::vector<std::filesystem::path>& frames,
                                              Progress& progress);

}  // namespace optrel
