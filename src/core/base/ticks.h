// SPDX-License-Identifier: GPL-3.0-or-later
// Axis ticks: steps of 1, 2 or 5 times a power of ten.
#pragma once

#include <string>

namespace optrel {

/// Tick step for at most about `count` ticks over a range.
double tick_step(double range, int ticks);

/// A range whose ends are multiples of its step.
struct RoundRange {
    double low = 0, high = 1, step = 1;
    int count() const { return static_cast<int>((high - low) / step + 1.5); }
    double tick(int i) const { return low + i * step; }
};
/// Smallest such range that contains [low, high], with a tolerance of a fiftieth of a step, in about `count` steps. A
/// range smaller than `least` is widened around its middle, so that noise does not fill a plot.
RoundRange round_range(double low, double high, double least, int ticks);

/// Largest value of 1, 2 or 5 times a power of ten that is not above `value`.
double round_below(double value);
/// Label of a tick, with as many decimals as the step needs.
std::string tick_text(double value, double step);

}  // namespace optrel
