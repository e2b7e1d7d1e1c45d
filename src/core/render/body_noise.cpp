// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/body_noise.h"

#include <algorithm>

#include "render/recent_results.h"
#include "render/sample_layouts.h"
#include "render/simulated_frame.h"

namespace optrel {
namespace {

// Sizes are multiples of six, so that every filter fits.
constexpr int width = 768, height = 384;

/// Grey that rises from left to right, evenly in its square root, which noise follows.
double level_at(int column) {
    const double share = (column + 0.5) / width;
    return 0.98 * share * share;
}

}  // namespace

Planes grey_with_noise(const RawPicture& raw, const std::array<double, 3>& multipliers) {
    const RawPicture grey = simulated_frame(
        raw, {{width, height},
              [&](int, int column, std::size_t channel) { return level_at(column) / multipliers[channel]; },
              raw.noise,
              20261202});
    return linear_planes(grey, grey.counts, multipliers, nullptr, nullptr, {{0, 0}, grey.counts.size()});
}

NoiseConditions::NoiseConditions(const RawPicture& raw, const std::array<double, 3>& of_balance)
    : layout(raw.layout), filter(raw.filter), multipliers(of_balance), noise(*raw.noise) {}

std::shared_ptr<const ScaleNoise> scale_noise_of(const RawPicture& raw, const std::array<double, 3>& multipliers) {
    if (!raw.noise) return nullptr;
    static RecentResults<NoiseConditions, ScaleNoise> recent(16);
    return recent.get(NoiseConditions(raw, multipliers),
                      [&] { return measure_by_scale(grey_with_noise(raw, multipliers)); });
}

}  // namespace optrel
