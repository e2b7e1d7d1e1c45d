// SPDX-License-Identifier: GPL-3.0-or-later
// The one resampling: from the corrected picture back into the frame, each channel by its own mapping.
//
// Cubic convolution (Keys 1981, a = -1/2) over 4 x 4 samples in linear light. Positions are computed exactly on a mesh
// of 8 x 8 pixels and interpolated between (error below 2e-4 px for a distortion of 5 percent); weights are exact, not
// tabulated.
#pragma once

#include "base/progress.h"
#include "optics/frame_map.h"
#include "render/planes.h"

namespace optrel {

/// Whether red and blue still lie where their light fell, or were brought to green's place already.
enum class Fringes { as_recorded, aligned };

/// `scale` enlarges about the middle of the picture. What lies outside the frame is black (0).
Planes resample(const Planes& in, const FrameMap& map, double scale, Fringes fringes, const Progress& progress);

}  // namespace optrel
