// SPDX-License-Identifier: GPL-3.0-or-later
// Which hues of fringes are faults, as a field says it.
#pragma once

#include <string>
#include <vector>

namespace optrel {

/// Hues in degrees: 0 red, 120 green, 240 blue, 300 purple. `to` may be less than `from`: through 0.
struct HueRange {
    double from = 0, to = 360;
    double percent = 0;  ///< of the fringe that is taken away
};

/// "none", or "260-340 80, 90-150 50": ranges with a percentage each. Throws Error(input).
std::vector<HueRange> fringe_hues(const std::string& text);
/// The inverse, to whole degrees and percent.
std::string to_text(const std::vector<HueRange>& hues);

}  // namespace optrel
