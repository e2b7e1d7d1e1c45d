// SPDX-License-Identifier: GPL-3.0-or-later
// Frames with known light and known noise, to see what a development makes of them.
#pragma once

#include <array>
#include <cstdint>
#include <functional>
#include <optional>

#include "frames/picture.h"

namespace optrel {

struct SimulatedLight {
    cv::Size size;  ///< multiples of six, so that every filter fits
    /// Share of the white level above black at a sample.
    std::function<double(int row, int column, std::size_t channel)> at;
    /// Slope and offset of the variance for red, green and blue; empty: none.
    std::optional<std::array<double, 6>> noise;
    std::uint64_t seed = 1;
};

/// A frame with the layout, filter and colours of `like`, with levels of its own that cut off nothing. The same for the
/// same input.
RawPicture simulated_frame(const RawPicture& like, const SimulatedLight& light);

}  // namespace optrel
