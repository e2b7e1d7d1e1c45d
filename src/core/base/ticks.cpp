// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/ticks.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace optrel {
namespace {

double power_below(double value) { return std::pow(10, std::floor(std::log10(value))); }

}  // namespace

double tick_step(double range, int ticks) {
    const double rough = range / std::max(1, ticks), power = power_below(rough);
    for (const double factor : {1.0, 2.0, 5.0})
        if (rough <= factor * power * 1.0001) return factor * power;
    return 10 * power;
}

RoundRange round_range(double low, double high, double least, int ticks) {
    const double spare = std::max(0.0, (least - (high - low)) / 2);
    low -= spare;
    high += spare;
    const double step = tick_step(high - low, ticks);
    // A tiny excess beyond a tick does not add another one.
    constexpr double hair = 0.02;
    return {step * std::floor(low / step + hair), step * std::ceil(high / step - hair), step};
}

double round_below(double value) {
    const double power = power_below(value);
    for (const double factor : {5.0, 2.0})
        if (value >= factor * power) return factor * power;
    return power;
}

std::string tick_text(double value, double step) {
    int decimals = 0;
    while (decimals < 8 && std::abs(step * std::pow(10, decimals) - std::round(step * std::pow(10, decimals))) > 1e-6)
        ++decimals;
    return fmt::format("{:.{}f}", std::abs(value) < 1e-12 ? 0 : value, decimals);
}

}  // namespace optrel
