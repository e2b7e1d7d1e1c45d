// SPDX-License-Identifier: GPL-3.0-or-later
// Steps of the development that are independent of the developed part of a frame.
#pragma once

#include "base/progress.h"
#include "baselines/resolver.h"
#include "frames/colour_space.h"
#include "frames/picture.h"
#include "render/defringing.h"
#include "render/encode_row.h"
#include "render/noise_reduction.h"
#include "render/planes.h"

#include "render/colour_rendering.h"
#include "render/field_values.h"

namespace optrel {

/// The counts, with hot samples replaced when the fields ask for it; not those of an interpolated frame.
cv::Mat1w counts_for(const RawPicture& raw, const ResolvedFrame& fields);
Planes planes_of(const cv::Mat3f& linear);
/// True when the fields ask for noise reduction.
bool treats_noise(const ResolvedFrame& fields);
/// `known`: see reduce_noise().
void treat_noise(Planes& planes, const ResolvedFrame& fields, const KnownNoise* known, const Progress& progress);
DefringingSettings defringing_settings(const ResolvedFrame& fields);
/// `noise`: what the threshold in sigmas refers to; null: it does not apply.
void sharpen_by(Planes& planes, const ResolvedFrame& fields, const std::vector<float>* noise);
/// Radius (px) of the neighbourhood that fringe suppression and sharpening use.
int reach_of_finish(const ResolvedFrame& fields);
/// Linear sRGB encoded in a colour space, 16 bits; for the camera's own space the planes must be in it already.
cv::Mat3w encoded(const Planes& planes, ColourSpace space = ColourSpace::srgb);
/// Encodes light after a matrix, by tables; a null pointer leaves it linear. `out` has the size of the planes.
void encode_with(const Planes& planes, const cv::Matx33f& matrix, const EncodingTables* tables, cv::Mat3w out);
/// The same as encoded() into an existing picture of the size of the planes.
void encode_into(const Planes& planes, ColourSpace space, cv::Mat3w out);

}  // namespace optrel
