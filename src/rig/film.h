// SPDX-License-Identifier: GPL-3.0-or-later
// A film as the simulated lens shows it: a ruled wall over which a lamp wanders.
#pragma once

#include <filesystem>
#include <opencv2/core.hpp>

#include "base/output.h"
#include "base/progress.h"
#include "rig/lens.h"

namespace optrel::rig {

struct FilmScene {
    cv::Size size{1920, 1080};
    int pictures = 100;  ///< 25 a second
    double area_width_mm = 23.1616;
};

/// Written as FFV1. The rules are 0.11 of the picture's height apart and move by 0.0002 of it from picture to picture.
void make_film(const Lens& lens, const FilmScene& scene, const std::filesystem::path& out, Existing existing,
               Progress& progress);

}  // namespace optrel::rig
