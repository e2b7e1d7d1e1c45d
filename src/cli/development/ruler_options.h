// SPDX-License-Identifier: GPL-3.0-or-later
// What commands that solve a lens have in common beside the chart: its check rulers, frames that carry a correction,
// and how findings are told.
#pragma once

#include <CLI/CLI.hpp>
#include <optional>
#include <string>

#include "calibration/run.h"

namespace optrel::cli {

struct RulerOptions {
    std::string across, down;      ///< "198.6/200": as measured / as printed
    double printed_square_mm = 0;  ///< 0: that of the chart
};
void add_ruler_options(CLI::App& command, RulerOptions& options);

/// The size of the squares across and down by the rulers; nothing when none was given. Throws Error(usage).
std::optional<Vec2> square_by(const RulerOptions& options, const ChartSpec& chart);

void add_measure_mosaic_flag(CLI::App& command, bool& measure_mosaic);

/// "! tilt: No chart frame is tilted ...": serious ones first, with the name by which they are accepted.
void print_findings(const RunSolution& solution);

}  // namespace optrel::cli
