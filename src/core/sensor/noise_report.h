// SPDX-License-Identifier: GPL-3.0-or-later
// The figures of a published noise measurement, for display and for what is derived from them.
#pragma once

#include <array>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include "sensor/noise_run.h"
#include "sensor/photon_transfer.h"

namespace optrel {

/// One colour at one ISO, as the document has it.
struct ReportedColour {
    MeasuredFigure a, b;  ///< variance = a signal + b, with the signal 0 at black and 1 at the white level
    MeasuredFigure gain, read_noise, full_well, prnu;
    double row_noise = 0, column_noise = 0;  ///< electrons; 0 when the document does not say it
    double dynamic_range_ev = 0;

    /// Signal-to-noise ratio in decibels (EMVA 1288) at a share of the white level, of one sample.
    double snr_db(double signal) const;
};

struct ReportedIso {
    int iso = 0;
    std::array<ReportedColour, 3> colours;  ///< red, green, blue
    int pairs = 0, dark_frames = 0;
    std::vector<PairLevel> levels;  ///< of the pairs, ascending; empty in documents that do not have them
    std::optional<double> nonlinearity_percent;
};

struct ReportedFinding {
    std::string name, text, remedy;
    bool serious = false;
};

struct NoiseReport {
    std::string camera, serial;
    std::vector<ReportedIso> isos;  ///< ascending
    int digital_above_iso = 0;      ///< 0: not seen
    std::vector<ReportedFinding> findings;
    std::set<std::string> frames;  ///< names of the files that were used
};

/// Reads the document of a noise measurement. Throws Error(input) when it is damaged; `where` names it.
NoiseReport noise_report(const std::string& document, const std::string& where);

}  // namespace optrel
