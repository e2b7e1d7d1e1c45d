// SPDX-License-Identifier: GPL-3.0-or-later
// Interpolation of a colour filter that repeats every six rows and columns.
#pragma once

#include "frames/site_pattern.h"
#include "render/planes.h"

namespace optrel {

/// Three planes of a mosaic with any filter of 6 x 6 samples that has every colour; linear light. Green is interpolated
/// between the nearest greens of its row and of its column, weighted by how little green changes that way around; red
/// and blue by their differences from green, as means weighted by distance. `origin`: position of the mosaic in the
/// frame, where the filter begins at (0, 0). Red and blue stay where they were recorded.
Planes demosaic_six(const cv::Mat1f& mosaic, const SitePattern<int>& filter, cv::Point origin = {0, 0});

}  // namespace optrel
