// SPDX-License-Identifier: GPL-3.0-or-later
// ICC profiles of invented screens, and what Little CMS itself makes of colours for them.
#pragma once

#include <opencv2/core.hpp>
#include <string>
#include <vector>

#include "render/screen_colours.h"

namespace optrel::test {

/// Wide primaries and a curve of its own for each colour.
std::string odd_gamma_screen();
/// A table in place of primaries, with a black that is lighter than none.
std::string table_screen();

/// Linear sRGB to 16-bit values of the screen by Little CMS in floating point, without its optimisations.
std::vector<cv::Vec3w> by_little_cms(const std::vector<cv::Vec3f>& linear_srgb, const ScreenSettings& screen);
/// dE2000 of each pair of values of the screen.
std::vector<double> differences_on(const std::string& screen, const std::vector<cv::Vec3w>& a,
                                   const std::vector<cv::Vec3w>& b);

}  // namespace optrel::test
