// SPDX-License-Identifier: GPL-3.0-or-later
// The measured noise of a body as the wavelets of noise reduction see it.
#pragma once

#include <array>
#include <memory>

#include "frames/picture.h"
#include "render/noise_reduction.h"

namespace optrel {

/// All that the noise of a white-balanced, interpolated frame depends on. The picture must have its `noise`.
struct NoiseConditions {
    SampleLayout layout;
    SitePattern<int> filter;
    std::array<double, 3> multipliers;
    std::array<double, 6> noise;

    NoiseConditions(const RawPicture& raw, const std::array<double, 3>& of_balance);
    bool operator==(const NoiseConditions&) const = default;
};

/// Three planes of an even grey that rises from black to white, with the noise of `raw.noise`, which must be there:
/// white-balanced and interpolated as a frame like `raw` is. The same for the same input.
Planes grey_with_noise(const RawPicture& raw, const std::array<double, 3>& multipliers);

/// Noise of each scale for a frame like `raw` with these white-balance multipliers (smallest 1), from its `noise`;
/// null when it has none. Interpolation correlates the noise of neighbours, so it is measured
/// on grey_with_noise(). The last results are kept. Thread-safe.
std::shared_ptr<const ScaleNoise> scale_noise_of(const RawPicture& raw, const std::array<double, 3>& multipliers);

}  // namespace optrel
