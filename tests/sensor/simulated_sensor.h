// SPDX-License-Identifier: GPL-3.0-or-later
// A sensor whose noise is known, sample by sample: electrons, fixed patterns, amplification, rounding.
#pragma once

#include <algorithm>
#include <cmath>
#include <random>
#include <type_traits>
#include <vector>

#include "frames/picture.h"

namespace optrel::test {

struct SensorTruth {
    int width = 512, height = 384;
    double gain = 2.5;      ///< electrons per count before any multiplication
    double read_noise = 3;  ///< electrons
    double prnu = 0.01;     ///< share
    double dsnu = 1.5;      ///< electrons
    double row_noise = 0;   ///< electrons
    int multiplied = 1;     ///< factor on counts after the conversion
    double black = 512, white = 16383;
    SampleLayout layout = SampleLayout::bayer;

    SitePattern<int> filter() const {
        if (layout == SampleLayout::monochrome) return SitePattern<int>(1);
        if (layout == SampleLayout::six_by_six)
            return {6, [](int row, int column) { return (row + column) % 3 == 0 ? 2 * (row % 2) : 1; }};
        return {{0, 1}, {1, 2}};
    }
};

class SimulatedSensor {
public:
    SimulatedSensor(const SensorTruth& truth, unsigned seed) : truth_(truth), random_(seed) {
        const std::size_t n = static_cast<std::size_t>(truth.width) * static_cast<std::size_t>(truth.height);
        for (std::size_t i = 0; i < n; ++i) {
            response_.push_back(1 + truth.prnu * normal());
            offset_.push_back(truth.dsnu * normal());
        }
    }
    /// `level`: share of the white level in green in the middle of the picture; 0: a dark frame. Light falls off by
    /// half an EV towards the corners, and a tenth from left to right.
    RawPicture shot(double level) {
        const SensorTruth& t = truth_;
        return shot([&](int x, int y) {
            const double u = static_cast<double>(x) / t.width - 0.5, v = static_cast<double>(y) / t.height - 0.5;
            return level * (1 - 0.6 * (u * u + v * v)) * (1 + 0.1 * u);
        });
    }
    /// `light_at(x, y)`: share of the white level in green.
    template <class Light>
    auto shot(Light&& light_at) -> std::enable_if_t<std::is_invocable_v<Light&, int, int>, RawPicture> {
        RawPicture out;
        const SensorTruth& t = truth_;
        out.counts.create(t.height, t.width);
        out.layout = t.layout;
        out.filter = t.filter();
        out.black = {{{t.black, t.black}, {t.black, t.black}}};
        out.white = t.white;
        // What red, green and blue see of the light.
        constexpr double seen[3] = {0.5, 1, 0.7};
        const double full = (t.white - t.black) / t.multiplied * t.gain;
        for (int y = 0; y < t.height; ++y) {
            const double row = t.row_noise > 0 ? t.row_noise * normal() : 0;
            for (int x = 0; x < t.width; ++x) {
                const std::size_t i =
                    static_cast<std::size_t>(y) * static_cast<std::size_t>(t.width) + static_cast<std::size_t>(x);
                const double light = full * light_at(x, y) * seen[out.filter.at(y, x)];
                double electrons = 0;
                if (light > 0) electrons = std::poisson_distribution<long>(light * response_[i])(random_);
                electrons += offset_[i] + row + t.read_noise * normal();
                const double count = t.black + t.multiplied * std::round(electrons / t.gain);
                out.counts(y, x) = static_cast<std::uint16_t>(std::clamp(count, 0.0, t.white));
            }
        }
        return out;
    }
    double normal() { return normal_(random_); }

private:
    SensorTruth truth_;
    std::mt19937_64 random_;
    std::normal_distribution<double> normal_;
    std::vector<double> response_, offset_;
};

}  // namespace optrel::test
