// SPDX-License-Identifier: GPL-3.0-or-later
// What a body recorded of each patch of a chart.
#pragma once

#include <array>
#include <optional>
#include <string>
#include <vector>

#include "frames/picture.h"
#include "patches/chart_finder.h"

namespace optrel {

struct MeasuredPatch {
    int column = 0, row = 0;
    std::array<double, 3> raw{};    ///< mean of red, green and blue: 0 at black, 1 at the white level
    std::array<double, 3> sigma{};  ///< of each mean, one sigma
    double uneven = 0;              ///< change of green across the patch, as a share of its mean
    std::string left_out;           ///< why it is not used; empty: it is
    bool used() const { return left_out.empty(); }
};

/// Measures the middle 60 percent of each patch of the chart; the result has the order of the chart file. A patch is
/// left out when samples are at the white level, when it lies beyond the frame, when more than 3 percent of its samples
/// are far from the others (dirt, a scratch), or when it changes by more than a tenth across (glare, a shadow's edge).
std::vector<MeasuredPatch> measure_patches(const MeasuringPicture& picture, const PatchChart& chart,
                                           const cv::Matx33d& to_frame);

/// Divides the patches by the light that a flat field of the same place shows there, relative to its mean.
void divide_by_flat(std::vector<MeasuredPatch>& patches, const std::vector<MeasuredPatch>& flat);

}  // namespace optrel
