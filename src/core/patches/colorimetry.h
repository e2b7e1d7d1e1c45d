// SPDX-License-Identifier: GPL-3.0-or-later
// Colours as the standard observer sees them (CIE 15:2018): spectra, lights, CIELAB, and the difference of two colours.
#pragma once

#include <opencv2/core.hpp>
#include <optional>
#include <string>
#include <vector>

namespace optrel {

/// Values every 10 nm from 380 to 780 nm.
using Spectrum = std::vector<double>;
inline constexpr int spectrum_first_nm = 380, spectrum_last_nm = 780, spectrum_step_nm = 10;
inline constexpr std::size_t spectrum_size = (spectrum_last_nm - spectrum_first_nm) / spectrum_step_nm + 1;

/// The relative power of a standard light: "A", "D50", "D55", "D65" or "D75"; empty for any other name.
std::optional<Spectrum> standard_light(const std::string& name);
/// Black body radiation of a temperature (K), 100 at 560 nm.
Spectrum planckian_light(double kelvin);
/// Daylight of a correlated temperature from 4000 to 25000 K, 100 at 560 nm.
Spectrum daylight(double kelvin);

/// XYZ of a reflectance in a light, by the observer of 1931; a perfect diffuser has Y = 1.
cv::Vec3d xyz_of(const Spectrum& reflectance, const Spectrum& light);
/// XYZ of the light itself, Y = 1.
cv::Vec3d white_of(const Spectrum& light);

/// White of D50, as the ICC's specification has it.
inline const cv::Vec3d white_d50(0.9642, 1, 0.8249);

/// L*, a*, b* of a colour for a white.
cv::Vec3d lab_of(const cv::Vec3d& xyz, const cv::Vec3d& white);
cv::Vec3d xyz_of_lab(const cv::Vec3d& lab, const cv::Vec3d& white);

/// CIEDE2000 (Sharma, Wu, Dalal 2005) with all factors 1.
double de2000(const cv::Vec3d& lab_1, const cv::Vec3d& lab_2);
/// Its parts: weighted differences of lightness, chroma and hue, whose squares add up to it but for the rotation of
/// blues.
cv::Vec3d de2000_parts(const cv::Vec3d& lab_1, const cv::Vec3d& lab_2);

/// What differences of the same patches come to, CIEDE2000.
struct Spread {
    double mean = 0, p95 = 0, largest = 0;
};
/// All 0 when there are none.
Spread spread_of(std::vector<double> differences);

}  // namespace optrel
