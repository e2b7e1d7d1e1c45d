// SPDX-License-Identifier: GPL-3.0-or-later
// Photon transfer (EMVA Standard 1288, release 4.0): the noise of a sensor as a function of its signal, from pairs of
// flat fields and pairs of dark frames at one ISO.
//
// For a difference a - k b of two frames of one light, with the means A and B of a block in counts above black,
//     E[var(a - k b)] = slope (A + k^2 B) + floor (1 + k^2),
// where fixed patterns, falloff and a change of the light's strength (k) cancel. All blocks of all pairs are fitted at
// once, so a light that falls off only adds levels. The variance of a block's variance v is 2 v^2 / (n - 1).
#pragma once

#include <array>
#include <vector>

#include "sensor/pair_statistics.h"

namespace optrel {

/// A figure with its standard uncertainty (one sigma).
struct MeasuredFigure {
    double value = 0, sigma = 0;
};

/// What was measured of one colour at one ISO.
struct ColourNoise {
    MeasuredFigure slope;                    ///< counts^2 per count
    MeasuredFigure floor;                    ///< counts^2 at no signal, with the rounding to whole counts
    double slope_floor = 0;                  ///< covariance of both
    MeasuredFigure gain;                     ///< electrons per count: 1 / slope
    MeasuredFigure read_noise;               ///< electrons, of single samples: without rounding and noise of lines
    MeasuredFigure read_counts;              ///< the same in counts
    MeasuredFigure full_well;                ///< electrons at the white level
    MeasuredFigure prnu;                     ///< photo response non-uniformity, percent
    MeasuredFigure dsnu;                     ///< dark signal non-uniformity, electrons; sigma 0 without dark frames
    double row_noise = 0, column_noise = 0;  ///< electrons; from dark frames
    double black = 0;                        ///< mean of the dark frames above the declared level, counts
    double dynamic_range_ev = 0;
    double chi_square = 0;  ///< of the fit, by its degrees of freedom: 1 when the model holds
    int blocks = 0;

    /// Variance (counts^2) at a signal in counts above black.
    double variance(double signal) const { return floor.value + slope.value * signal; }
};

/// One pair as photon_transfer() takes it.
struct TransferPair {
    std::vector<PairPlane> planes;  ///< one for each site of the filter
    bool dark = false;
    double white = 0;  ///< counts from black to the white level
};

/// Fits red, green and blue; the samples of a monochrome sensor count as all three. Blocks above 70 percent of the
/// white level (EMVA 1288) and blocks with outliers, such as unstable pixels, are left out. Throws Error(input) when a
/// colour has no usable blocks, or when all have the same signal, so that gain and read noise cannot be separated.
/// `lines`: of the dark frames, in counts. `value_step`: step between recorded values, see value_step().
std::array<ColourNoise, 3> photon_transfer(const std::vector<TransferPair>& pairs, double value_step,
                                           const LineNoise& lines);

}  // namespace optrel
