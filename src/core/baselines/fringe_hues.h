// SPDX-License-Identifier: GPL-3.0-or-later
// Hue ranges of the defringing field.
#pragma once

#include <string>
#include <vector>

namespace optrel {

/// Range of hues in degrees: 0 red, 120 green, 240 blue, 300 purple. When `to` is less than `from`, the range passes
/// through 0.
struct HueRange {
    double from = 0, to = 360;
    double percent = 0;  ///< percentage of the fringe that is removed
};

/// Parses "none", or ranges with a percentage each: "260-340 80, 90-150 50". Throws Error(input).
std::vector<HueRange> fringe_hues(const std::string& text);
/// The inverse, to whole degrees and percent.
std::string to_text(const std::vector<HueRange>& hues);

}  // namespace optrel
