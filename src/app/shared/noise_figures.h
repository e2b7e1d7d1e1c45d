// SPDX-License-Identifier: GPL-3.0-or-later
// The table of a body's measured noise, one row for each ISO.
#pragma once

#include <functional>

#include "sensor/noise_report.h"
#include "widgets/table.h"

namespace optrel {

/// `channel` gives the colour that is shown: 0 red, 1 green, 2 blue.
TableOf<ReportedIso>* new_noise_figures(const QString& accessible_name, const std::function<int()>& channel,
                                        bool with_full_well);

}  // namespace optrel
