// SPDX-License-Identifier: GPL-3.0-or-later
// Noise reduction on an undecimated wavelet transform (Starck, Murtagh 1998, "a trous" with a B3 spline): each detail
// is kept in proportion to the energy around it that exceeds the noise.
//
// Where the noise of the body is not known, it is measured on the frame itself, scale by scale: variance = a * signal +
// b, from the detail in bins of signal (EMVA 1288 terms).
#pragma once

#include <memory>
#include <vector>

#include "base/progress.h"
#include "render/demosaic.h"
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

/// Noise of each wavelet scale, finest first.
struct ScaleNoise {
    std::vector<NoiseModel> luminance;  ///< of Y = (R + 2 G + B) / 4
    std::vector<NoiseModel> red, blue;  ///< of R - G and B - G
};

/// The noise of planes that show nothing else.
ScaleNoise measure_by_scale(const Planes& planes);

/// Noise that is known from measurements of the body (render/body_noise.h), for planes that are a part of a frame.
struct KnownNoise {
    std::shared_ptr<const ScaleNoise> scales;
    const GainTable* gains = nullptr;  ///< by which falloff was corrected; null: it was not
    cv::Rect part;
};

/// Strengths 0 to 100 for luminance and colour. In place, on camera colours after white balance. `known`: null when the
/// noise is to be measured on the planes.
void reduce_noise(Planes& planes, double luminance_strength, double colour_strength, const KnownNoise* known,
                  const Progress& progress);

}  // namespace optrel
