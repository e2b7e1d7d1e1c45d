// SPDX-License-Identifier: GPL-3.0-or-later
// The defects of a sensor: pixels and lines whose samples are replaced before anything else is computed.
#pragma once

#include <string>
#include <vector>

#include "frames/bad_samples.h"
#include "sensor/dust.h"

namespace optrel {

enum class DefectKind {
    hot,       ///< shows light in the dark
    unstable,  ///< changes from frame to frame in the dark by more than noise explains
    dead,      ///< answers to light by at least a quarter less, or more, than its neighbours
};
/// "hot", "unstable", "dead".
const char* to_string(DefectKind kind);

/// Dark frames of one ISO and exposure time.
struct DarkSetting {
    int iso = 0;
    double exposure_s = 0;  ///< 0: not recorded
    int frames = 0;
    double noise = 0;  ///< counts, one sigma of a sample from frame to frame
};

struct DefectPixel {
    int row = 0, column = 0;  ///< of the visible area
    DefectKind kind = DefectKind::hot;
    /// hot and unstable: counts above its surround at each dark setting, as far as it is above; 0 below.
    std::vector<double> excess;
    /// dead: percent by which its answer to light differs from its neighbours'. unstable: counts, one sigma over time.
    double strength = 0;
};

struct DefectLine {
    bool is_row = false;      ///< otherwise a column
    int index = 0;            ///< of the row or column
    int first = 0, last = 0;  ///< samples along it, both included
    double strength = 0;      ///< counts in the dark, or percent of the light
    bool in_light = false;    ///< unit of the strength: percent of the light
};

struct DefectMap {
    std::string camera, serial;
    int width = 0, height = 0;
    std::vector<DarkSetting> settings;  ///< by exposure time, then ISO
    int flats = 0;                      ///< flat fields that were used
    std::vector<DefectPixel> pixels;    ///< by row, then column
    std::vector<DefectLine> lines;
    std::vector<DustSpot> dust;  ///< deepest first; not repaired
    std::string author, time;    ///< ISO 8601, UTC
    std::vector<std::string> frames;

    int count(DefectKind kind) const;
};

/// The samples that are wrong in a frame of this ISO and exposure time (s; 0: not known). Dead and unstable pixels and
/// lines always are. A hot pixel is while its excess, which grows with time and ISO, exceeds three sigma of the noise
/// in the dark; for times shorter than all that were measured it is taken as at the shortest.
BadSamples bad_samples_at(const DefectMap& map, int iso, double exposure_s);

/// Pixels and lines of `after` that `before` does not have at the same place, and the other way round.
struct DefectChange {
    int new_pixels = 0, gone_pixels = 0, new_lines = 0, gone_lines = 0;
};
DefectChange change_between(const DefectMap& before, const DefectMap& after);

/// One line a defect: kind, row, column, last row, last column, strength and its unit, as CSV with a heading (RFC
/// 4180).
std::string defects_to_csv(const DefectMap& map);

}  // namespace optrel
