// SPDX-License-Identifier: GPL-3.0-or-later
// A noise run: flat fields and dark frames of one body, sorted into ISO settings and pairs, measured and judged.
#pragma once

#include <array>
#include <filesystem>
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "base/progress.h"
#include "frames/metadata.h"
#include "sensor/noise_finding.h"
#include "sensor/photon_transfer.h"

namespace optrel {

/// The light of one pair of flat fields.
struct PairLevel {
    double exposure_s = 0;  ///< 0: not recorded
    double level = 0;       ///< mean of green, from 0 at black to 1 at the white level
};

/// The noise at one ISO.
struct IsoNoise {
    int iso = 0;
    std::array<ColourNoise, 3> colours;  ///< red, green, blue
    int pairs = 0, dark_frames = 0;
    std::vector<PairLevel> levels;  ///< of the pairs, ascending
    double white = 0;               ///< counts from black to the white level
    double value_step = 0;          ///< see value_step(); 0: unknown
    /// Largest deviation of the signal from proportional to the exposure time, percent; empty with fewer than three
    /// recorded times.
    std::optional<double> nonlinearity_percent;
};

struct NoiseMeasurement {
    Metadata body;  ///< of the first frame: maker, model and serial number
    int width = 0, height = 0;
    std::vector<IsoNoise> isos;  ///< ascending
    /// Highest ISO up to which the body amplifies before the conversion; above it counts are only multiplied. 0: no
    /// such limit was seen.
    int digital_above_iso = 0;
    std::vector<NoiseFinding> findings;
    std::vector<std::filesystem::path> frames;  ///< those that were used
};

/// Measures raw frames. Frames in `darks` are dark frames; frames in `flats` without light count as dark frames too.
/// Pairs are neighbours in time with the same ISO, exposure time and aperture. Frames that cannot be used, and ISO
/// settings that cannot be measured, are left out with a finding. Throws Error(input) when frames come from different
/// bodies, or when no ISO can be measured.
NoiseMeasurement measure_noise(const std::vector<std::filesystem::path>& flats,
                               const std::vector<std::filesystem::path>& darks, Progress& progress);

}  // namespace optrel
