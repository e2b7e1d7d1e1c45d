// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/simulated_frame.h"

#include <algorithm>
#include <cmath>
#include <random>

namespace optrel {

RawPicture simulated_frame(const RawPicture& like, const SimulatedLight& light) {
    constexpr double black = 4000, white = 60000;
    RawPicture raw;
    raw.layout = like.layout;
    raw.filter = like.filter;
    raw.black = SitePattern<double>(black);
    raw.interpolated_black.fill(black);
    raw.white = white;
    raw.xyz_to_camera = like.xyz_to_camera;
    raw.has_colour_matrix = like.has_colour_matrix;
    raw.as_shot_neutral = like.as_shot_neutral;
    raw.carried = like.carried;
    raw.camera_names = like.camera_names;
    raw.counts.create(light.size);
    const bool interpolated = raw.layout == SampleLayout::interpolated;
    if (interpolated) raw.interpolated.create(light.size);
    std::mt19937_64 random(light.seed);
    std::normal_distribution<double> normal;
    const auto count = [&](int row, int column, std::size_t channel) {
        double value = light.at(row, column, channel);
        if (light.noise) {
            const std::array<double, 6>& terms = *light.noise;
            value += std::sqrt(std::max(0.0, terms[2 * channel] * value + terms[2 * channel + 1])) * normal(random);
        }
        return cv::saturate_cast<std::uint16_t>(black + value * (white - black));
    };
    for (int row = 0; row < light.size.height; ++row)
        for (int i = 0; i < light.size.width; ++i) {
            raw.counts(row, i) = count(row, i, static_cast<std::size_t>(raw.filter.at(row, i)));
            if (interpolated)
                for (std::size_t c = 0; c < 3; ++c) raw.interpolated(row, i)[static_cast<int>(c)] = count(row, i, c);
        }
    return raw;
}

}  // namespace optrel
