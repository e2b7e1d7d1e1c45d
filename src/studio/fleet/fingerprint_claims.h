// SPDX-License-Identifier: GPL-3.0-or-later
// Proposes claims for frames whose body is not known, by the fingerprints of sensors; and notices bodies whose frames
// show another sensor.
#pragma once

#include <filesystem>
#include <string>
#include <vector>

#include "base/progress.h"
#include "fleet/claims.h"
#include "store/store.h"

namespace optrel {

/// Frames that one body took, as their sensor's pattern says.
struct FingerprintProposal {
    std::string body;  ///< id in the register
    std::vector<std::filesystem::path> frames;
    double least_figure = 0;  ///< of the frame that fits least, see sensor/fingerprint.h
    int compared = 0;         ///< fingerprints that each frame was compared with
    std::string sentence;     ///< the reason: figure, threshold, rate of false alarms
};

/// A frame that reports one body and shows the sensor of another, or of none that is known.
struct ForeignSensor {
    std::filesystem::path frame;
    std::string reported;  ///< id of the body that the file reports
    std::string seen;      ///< id of the body whose sensor it shows; empty: a sensor that is not known
    std::string sentence;
};

struct FingerprintFindings {
    std::vector<FingerprintProposal> proposals;  ///< one for each body
    std::vector<ForeignSensor> foreign;
    int looked_at = 0;
    std::vector<std::string> problems;  ///< one sentence for each frame that could not be compared
    /// Frames whose body is not known and whose sensor matches no fingerprint.
    std::vector<std::filesystem::path> unmatched;
};

/// Keeps the unmatched frames in the store, with the fingerprints that they were compared with.
void remember_unmatched(Store& store, const FingerprintFindings& findings);
/// How many frames of unknown bodies were compared with all fingerprints that are current, and show none of them.
int remembered_unmatched(const Store& store, const Fleet& fleet);

/// Newest frames of each body with a fingerprint that are compared with it.
inline constexpr int frames_checked = 3;

/// Compares all raw frames whose body is unknown or only assumed, and the newest frames of each body that has a
/// fingerprint. A frame shows another sensor when it fits that of another body, or when it fits its own body's by less
/// than the threshold although every other of the newest ones does not fit either. Throws Error(input) when the store
/// has no fingerprints.
FingerprintFindings look_by_fingerprint(const Store& store, Progress& progress);

/// The least figure from which frames that arrive are claimed without asking; 0: none are.
double figure_without_asking(const Store& store);
/// Throws Error(input) for a figure that is below the threshold and not 0, and as StoredSettings::put() does.
void put_figure_without_asking(Store& store, double figure);

/// Claims those of these frames whose body is not known and whose figure reaches figure_without_asking(). Returns one
/// sentence for each problem; frames of a problem stay as they were.
std::vector<std::string> claim_arrivals(Store& store, const std::vector<FrameRecord>& frames, const std::string& author,
                                        Progress& progress);

/// The claim that accepts a proposal. Its frames are then known by their fingerprint.
Claim claim_of(const FingerprintProposal& proposal);

}  // namespace optrel
