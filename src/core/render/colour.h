// SPDX-License-Identifier: GPL-3.0-or-later
// White balance, and the conversion of camera colours to linear sRGB.
#pragma once

#include <array>
#include <opencv2/core.hpp>
#include <vector>

#include "frames/picture.h"

namespace optrel {

struct BodyCalibration;
struct DngColours;

/// XYZ of D50 to linear ROMM RGB (ISO 22028-2).
cv::Matx33d xyz_d50_to_romm();
/// XYZ of D50 to linear sRGB; white stays white.
cv::Matx33d xyz_d50_to_srgb();

/// Bradford's adaptation of a white (XYZ with Y = 1) to D50.
cv::Matx33d white_to_d50(const cv::Vec3d& white);

/// The matrices from XYZ to camera values by colour temperature: one for all lights, or two that are interpolated in
/// reciprocal temperature and kept constant beyond their lights (DNG specification 1.6, "Mapping Camera Color Space to
/// CIE XYZ Space").
class CameraMatrices {
public:
    CameraMatrices(const RawPicture& raw);  ///< the matrix of the file; implicit, because it is the default
    CameraMatrices(const DngColours& profile, const BodyCalibration& body);
    cv::Matx33d at(double kelvin) const;
    /// Interpolation weight of the second light.
    double share(double kelvin) const;

private:
    std::vector<cv::Matx33d> xyz_to_camera_;
    std::vector<double> kelvin_;
};

/// The temperature of the point on the Planckian locus (CIE 1960) that is nearest to a chromaticity, between 1000 and
/// 15000 K.
double correlated_temperature(const cv::Vec2d& xy);
/// The chromaticity of the light in which a neutral patch has these camera values, solved together with the matrices of
/// that light.
cv::Vec2d white_of(const CameraMatrices& matrices, const std::array<double, 3>& neutral);

/// Camera values of a neutral patch in light of a colour temperature (Krystek 1985 for the Planckian locus, 1000 to
/// 15000 K) and a tint: 100 shifts v (CIE 1960) by 0.02. Green is 1.
std::array<double, 3> neutral_of(const CameraMatrices& matrices, double kelvin, double tint);

/// The light in which a neutral patch has these camera values: the inverse of neutral_of(), by Newton's method on
/// reciprocal temperature and tint, between 2000 and 15000 K and within 150 of tint.
struct Illuminant {
    double kelvin = 5500, tint = 0;
};
Illuminant illuminant_of(const CameraMatrices& matrices, const std::array<double, 3>& neutral);

/// Factors that make a neutral patch grey; the smallest is 1.
std::array<double, 3> white_balance_multipliers(const std::array<double, 3>& neutral);

/// The matrices in the file: for two lights when it has them, otherwise one.
CameraMatrices own_matrices(const RawPicture& raw);

/// XYZ of D50 from camera values that were balanced so that `neutral` is grey (DNG specification 1.6, "Camera to XYZ
/// (D50) Transform", without a ForwardMatrix): the inverse of the matrices at the temperature of the light in which
/// `neutral` is neutral, with its white adapted to D50 by Bradford. Grey keeps its value as Y.
cv::Matx33d camera_to_xyz_d50(const CameraMatrices& matrices, const std::array<double, 3>& neutral);

/// White-balanced camera colours to linear sRGB (IEC 61966-2-1 primaries) by the same formula; grey stays grey. Uses
/// both matrices of the file when it has two.
cv::Matx33f camera_to_srgb(const RawPicture& raw, const std::array<double, 3>& neutral);

}  // namespace optrel
