// SPDX-License-Identifier: GPL-3.0-or-later
// Resolution from one straight, slanted edge (ISO 12233): the modulation over frequency, and the frequency at which it
// is one half.
#pragma once

#include <string>
#include <vector>

#include "frames/picture.h"

namespace optrel {

struct EdgeResponse {
    bool usable = false;
    std::string why_not;  ///< one sentence, when the measurement failed
    Channel channel = Channel::green;
    Vec2 middle = Vec2::Zero();   ///< of the edge, px of the frame
    Vec2 across = Vec2::UnitX();  ///< unit normal, towards the brighter side
    double mtf50 = 0, sigma = 0;  ///< cycles per pixel, with one sigma
    std::vector<double> mtf;      ///< at 0, 0.01, ... cycles per pixel, to 1

    static constexpr double frequency_step = 0.01;
    /// The modulation at a frequency, by linear interpolation.
    double at(double frequency) const;
};

/// Measures the edge between two places (px of the frame) from the raw samples of one colour. Its line (with a bow) and
/// an initial blur are fitted to the samples. Samples are binned by their distance from the line in quarter pixels, and
/// the differences of the bins are transformed. The effects of derivative and bins are corrected, and noise power is
/// subtracted. `half_width_px`: the distance on both sides within which there is nothing but the edge.
EdgeResponse edge_response(const MeasuringPicture& picture, Channel channel, const Vec2& from, const Vec2& to,
                           double half_width_px);

}  // namespace optrel
