// SPDX-License-Identifier: GPL-3.0-or-later
// Resolution from one straight edge that stands at a slant to the pixels (ISO 12233): the modulation transfer over
// frequency, and the frequency at which it is one half.
#pragma once

#include <string>
#include <vector>

#include "frames/picture.h"

namespace optrel {

struct EdgeResponse {
    bool usable = false;
    std::string why_not;  ///< one sentence, when it is not
    Channel channel = Channel::green;
    Vec2 middle = Vec2::Zero();   ///< of the edge, px of the frame
    Vec2 across = Vec2::UnitX();  ///< unit normal, towards the brighter side
    double mtf50 = 0, sigma = 0;  ///< cycles per pixel, with one sigma
    std::vector<double> mtf;      ///< at 0, 0.01, ... cycles per pixel, to 1

    static constexpr double frequency_step = 0.01;
    /// The modulation at a frequency, linear between.
    double at(double frequency) const;
};

/// The edge between two places (px of the frame), from the raw samples of one colour. Its line (with a bow) and a first
/// blur are fitted to the samples; samples are then gathered by their distance from it in bins of a quarter pixel,
/// whose differences are transformed; derivative and bins are allowed for, and the noise's share of the power is taken
/// off. `half_width_px`: how far to either side the edge has nothing else.
EdgeResponse edge_response(const MeasuringPicture& picture, Channel channel, const Vec2& from, const Vec2& to,
                           double half_width_px);

}  // namespace optrel
