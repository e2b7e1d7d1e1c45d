// SPDX-License-Identifier: GPL-3.0-or-later
// Round figures for scales: steps of 1, 2 or 5 times a power of ten.
#pragma once

#include <string>

namespace optrel {

/// A step for at most about so many ticks over a range.
double tick_step(double range, int ticks);
/// The largest such figure that is not above a positive value.
double round_below(double value);
/// A tick's figure with as many decimals as the step needs.
std::string tick_text(double value, double step);

}  // namespace optrel
