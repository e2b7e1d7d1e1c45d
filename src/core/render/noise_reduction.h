// SPDX-License-Identifier: GPL-3.0-or-later
// Noise reduction on an undecimated wavelet transform (Starck, Murtagh 1998, "a trous" with a B3 spline): each detail
// is kept in proportion to the energy around it that exceeds the noise.
//
// Noise is measured on the frame itself, scale by scale: variance = a * signal + b, from the detail in bins of signal
// (EMVA 1288 terms).
#pragma once

#include "base/progress.h"
#include "render/planes.h"

namespace optrel {

struct NoiseModel {
    double a = 0, b = 0;
    double sigma(double signal) const { return std::sqrt(std::max(0.0, a * std::max(0.0, signal) + b)); }
};

/// Noise of a plane as a function of `signal`; both have one size.
NoiseModel measure_noise(const cv::Mat1f& plane, const cv::Mat1f& signal);

/// The same for a difference that was formed already.
NoiseModel noise_of_difference(const cv::Mat1f& difference, const cv::Mat1f& signal);

/// Strengths 0 to 100 for luminance and colour. In place, on camera colours after white balance.
void reduce_noise(Planes& planes, double luminance_strength, double colour_strength, const Progress& progress);

}  // namespace optrel
