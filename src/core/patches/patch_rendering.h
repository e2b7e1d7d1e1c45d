// SPDX-License-Identifier: GPL-3.0-or-later
// Renders measured chart patches with the white balance, colours and exposure of the development.
#pragma once

#include <opencv2/core.hpp>
#include <vector>

#include "baselines/resolver.h"
#include "patches/body_colours.h"

namespace optrel {

/// XYZ for D50 of the patches of a setting, with the white balance, the colours and the exposure that these fields
/// choose; tone, saturation and the like are left aside. A perfect diffuser as the frames record it has Y = 1 with
/// exposure 0. `camera` is the camera's name, which colour files may ask for. Throws Error(input) when the fields name
/// a colour file that is not there or is for another camera.
std::vector<cv::Vec3d> rendered_patches(const ColourSetting& setting, const std::string& camera,
                                        const ResolvedFrame& fields);

}  // namespace optrel
