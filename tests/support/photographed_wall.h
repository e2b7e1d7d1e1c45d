// SPDX-License-Identifier: GPL-3.0-or-later
// A level and square wall with windows, photographed by a turned camera: its lines tell how the camera was held.
#pragma once

#include <array>
#include <cmath>
#include <random>
#include <vector>

#include "optics/frame_map.h"
#include "scene/segments.h"
#include "scene/straighten.h"

namespace optrel::test {

inline constexpr PictureGeometry wall_geometry{2400, 1600, 15};
/// Of 35 mm, with this distortion.
FrameMap wall_lens(double k1);

/// A wall with windows, level and square: its light at a place, x right and y down, in distances of the camera.
class Wall {
public:
    explicit Wall(unsigned seed) {
        std::mt19937 random(seed);
        std::uniform_real_distribution<double> u(0, 1);
        for (Window& w : windows_)
            w = {0.05 * u(random), 0.05 * u(random), 0.06 + 0.09 * u(random), 0.06 + 0.1 * u(random),
                 0.1 + 0.7 * u(random)};
    }
    double light(double x, double y) const {
        const int i = static_cast<int>(std::floor(x / pitch)), j = static_cast<int>(std::floor(y / pitch));
        if (std::abs(i) >= half || std::abs(j) >= half) return 0.5;
        const Window& w = windows_[(j + half) * 2 * half + i + half];
        x -= pitch * i;
        y -= pitch * j;
        return x > w.x && y > w.y && x < w.x + w.width && y < w.y + w.height ? w.light : 0.5;
    }

private:
    struct Window {
        double x, y, width, height, light;
    };
    static constexpr double pitch = 0.22;
    static constexpr int half = 10;
    std::array<Window, 4 * half * half> windows_;
};

/// A photograph of it by a turned camera through a lens, with noise.
MeasuringPicture photograph(const Wall& wall, const CameraTurn& turn, const FrameMap& through, double noise,
                            unsigned seed);
/// The straight lines that are found in it.
std::vector<SceneLine> lines_in(const MeasuringPicture& picture, const FrameMap& through, int orientation = 1);

}  // namespace optrel::test
