// SPDX-License-Identifier: GPL-3.0-or-later
// Round figures for scales: steps of 1, 2 or 5 times a power of ten.
#pragma once

#include <string>

namespace optrel {

/// A step for at most about so many ticks over a range.
double tick_step(double range, int ticks);

/// A range whose ends are multiples of its step.
struct RoundRange {
    double low = 0, high = 1, step = 1;
    int count() const { return static_cast<int>((high - low) / step + 1.5); }
    double tick(int i) const { return low + i * step; }
};
/// What holds all from low to high, but for a fiftieth of a step, in about so many steps. One that is less than `least`
/// high is widened about its middle, so that noise does not fill a plot.
RoundRange round_range(double low, double high, double least, int ticks);

/// The largest such figure that is not above a positive value.
double round_below(double value);
/// A tick's figure with as many decimals as the step needs.
std::string tick_text(double value, double step);

}  // namespace optrel
