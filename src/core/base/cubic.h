// SPDX-License-Identifier: GPL-3.0-or-later
// Cubic convolution interpolation (Keys 1981, a = -1/2) with four samples.
#pragma once

namespace optrel {

/// Weights of the samples at -1, 0, 1, 2 for a position `fraction` (0 to 1) between samples 0 and 1.
template <class T>
void cubic_weights(T fraction, T* weight) {
    const T f = fraction;
    weight[3] = T(0.5) * f * f * (f - 1);
    weight[0] = T(0.5) * f * f - T(0.5) * f - weight[3];
    weight[1] = 1 - f * f + 3 * weight[3];
    weight[2] = 1 - weight[0] - weight[1] - weight[3];
}

/// Derivatives of these weights with respect to `fraction`.
template <class T>
void cubic_slopes(T fraction, T* slope) {
    const T f = fraction;
    slope[3] = T(1.5) * f * f - f;
    slope[0] = f - T(0.5) - slope[3];
    slope[1] = -2 * f + 3 * slope[3];
    slope[2] = -(slope[0] + slope[1] + slope[3]);
}

}  // namespace optrel
