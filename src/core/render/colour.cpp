// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/colour.h"

#include <algorithm>
#include <cmath>

#include "frames/colour_profile.h"
#include "frames/colour_space.h"

namespace optrel {
namespace {

/// The Planckian locus in u and v of CIE 1960 (Krystek 1985).
cv::Vec2d planckian(double t) {
    return {
        (0.860117757 + 1.54118254e-4 * t + 1.28641212e-7 * t * t) / (1 + 8.42420235e-4 * t + 7.08145163e-7 * t * t),
        (0.317398726 + 4.22806245e-5 * t + 4.20481691e-8 * t * t) / (1 - 2.89741816e-5 * t + 1.61456053e-7 * t * t)};
}

constexpr double coolest = 15000, warmest = 1000;

}  // namespace

cv::Matx33d xyz_d50_to_romm() {
    static const cv::Matx33d matrix =
        cv::Matx33d(0.7976749, 0.1351917, 0.0313534, 0.2880402, 0.7118741, 0.0000857, 0, 0, 0.8252100).inv();
    return matrix;
}

cv::Matx33d xyz_d50_to_srgb() {
    // Through ROMM RGB with its white D50, the space of colour profiles.
    static const cv::Matx33d matrix = srgb_to(ColourSpace::romm).inv() * xyz_d50_to_romm();
    return matrix;
}

CameraMatrices::CameraMatrices(const RawPicture& picture) : xyz_to_camera_{picture.xyz_to_camera}, kelvin_{0} {}

CameraMatrices::CameraMatrices(const DngColours& profile, const BodyCalibration& body) {
    // The body's own calibration applies only to profiles that were made for the same reference camera.
    const bool calibrated = profile.signature == body.signature;
    for (std::size_t i = 0; i < profile.lights.size(); ++i) {
        const cv::Matx33d& own = body.by_light[profile.swapped ? 1 - i : i];
        const cv::Matx33d to_body = cv::Matx33d::diag(body.balance) * (calibrated ? own : cv::Matx33d::eye());
        xyz_to_camera_.push_back(to_body * profile.lights[i].xyz_to_camera);
        kelvin_.push_back(profile.lights[i].kelvin);
    }
}

double CameraMatrices::share(double kelvin) const {
    if (kelvin_.size() < 2) return 0;
    return std::clamp((1 / kelvin_[0] - 1 / kelvin) / (1 / kelvin_[0] - 1 / kelvin_[1]), 0.0, 1.0);
}

cv::Matx33d CameraMatrices::at(double kelvin) const {
    if (xyz_to_camera_.size() < 2) return xyz_to_camera_.front();
    const double w = share(kelvin);
    return xyz_to_camera_[0] * (1 - w) + xyz_to_camera_[1] * w;
}

double correlated_temperature(const cv::Vec2d& xy) {
    const double d = -2 * xy[0] + 12 * xy[1] + 3;
    const cv::Vec2d uv(4 * xy[0] / d, 6 * xy[1] / d);
    // Golden-section search over the reciprocal temperature, in which the locus is nearly uniform.
    const double golden = (std::sqrt(5.0) - 1) / 2;
    double low = 1e6 / coolest, high = 1e6 / warmest;
    const auto distance = [&](double mired) { return cv::norm(planckian(1e6 / mired) - uv); };
    while (high - low > 1e-4) {
        const double span = golden * (high - low);
        if (distance(high - span) < distance(low + span))
            high = low + span;
        else
            low = high - span;
    }
    return 2e6 / (low + high);
}

cv::Vec2d white_of(const CameraMatrices& matrices, const std::array<double, 3>& neutral) {
    cv::Vec2d white(0.3457, 0.3585), before = white;
    for (int i = 0; i < 30; ++i) {
        const cv::Vec3d xyz =
            matrices.at(correlated_temperature(white)).inv() * cv::Vec3d(neutral[0], neutral[1], neutral[2]);
        const double sum = xyz[0] + xyz[1] + xyz[2];
        if (!(sum > 1e-9) || !(xyz[1] > 1e-9)) return white;
        before = white;
        white = {xyz[0] / sum, xyz[1] / sum};
        if (cv::norm(white - before, cv::NORM_L1) < 1e-7) return white;
    }
    return (white + before) * 0.5;  // it oscillates between two values; the specification takes their mean
}

std::array<double, 3> neutral_of(const CameraMatrices& matrices, double t, double tint) {
    cv::Vec2d uv = planckian(t);
    uv[1] += 0.0002 * tint;  // a greener light is corrected towards magenta
    const double d = 2 * uv[0] - 8 * uv[1] + 4;
    const double x = 3 * uv[0] / d, y = 2 * uv[1] / d;
    const cv::Vec3d response = matrices.at(t) * cv::Vec3d(x / y, 1, (1 - x - y) / y);
    std::array<double, 3> neutral;
    for (int c = 0; c < 3; ++c) neutral[c] = std::max(0.02, response[c] / std::max(1e-6, response[1]));
    return neutral;
}

Illuminant illuminant_of(const CameraMatrices& matrices, const std::array<double, 3>& neutral) {
    const double green = std::max(1e-6, neutral[1]);
    const cv::Vec2d wanted(std::log(std::max(1e-6, neutral[0] / green)), std::log(std::max(1e-6, neutral[2] / green)));
    const auto at = [&](double reciprocal, double tint) {
        const std::array<double, 3> n = neutral_of(matrices, 1e6 / reciprocal, tint);
        return cv::Vec2d(std::log(n[0]), std::log(n[2]));
    };
    double m = 1e6 / 5500, tint = 0;
    for (int i = 0; i < 60; ++i) {
        const cv::Vec2d error = at(m, tint) - wanted, by_m = at(m + 0.1, tint) - at(m - 0.1, tint),
                        by_tint = at(m, tint + 0.1) - at(m, tint - 0.1);
        const cv::Matx22d slope(by_m[0] / 0.2, by_tint[0] / 0.2, by_m[1] / 0.2, by_tint[1] / 0.2);
        const double determinant = cv::determinant(slope);
        if (std::abs(determinant) < 1e-14) break;
        cv::Vec2d step = slope.inv() * error;
        step[0] = std::clamp(step[0], -60.0, 60.0);
        step[1] = std::clamp(step[1], -40.0, 40.0);
        m = std::clamp(m - step[0], 1e6 / 15000, 1e6 / 2000);
        tint = std::clamp(tint - step[1], -150.0, 150.0);
        if (std::abs(step[0]) < 1e-9 && std::abs(step[1]) < 1e-9) break;
    }
    return {1e6 / m, tint};
}

std::array<double, 3> white_balance_multipliers(const std::array<double, 3>& neutral) {
    std::array<double, 3> m;
    const double largest = std::max({neutral[0], neutral[1], neutral[2], 1e-6});
    for (int c = 0; c < 3; ++c) m[c] = largest / std::max(0.01 * largest, neutral[c]);
    return m;
}

cv::Matx33d white_to_d50(const cv::Vec3d& white) {
    const cv::Vec3d d50(0.9642, 1, 0.8251);
    const cv::Matx33d cones(0.8951, 0.2664, -0.1614, -0.7502, 1.7135, 0.0367, 0.0389, -0.0685, 1.0296);
    const cv::Vec3d a = cones * white, b = cones * d50;
    return cones.inv() * cv::Matx33d::diag(cv::Vec3d(b[0] / a[0], b[1] / a[1], b[2] / a[2])) * cones;
}

cv::Matx33d camera_to_xyz_d50(const CameraMatrices& matrices, const std::array<double, 3>& neutral) {
    const cv::Vec2d xy = white_of(matrices, neutral);
    const cv::Vec3d white(xy[0] / xy[1], 1, (1 - xy[0] - xy[1]) / xy[1]), camera(neutral[0], neutral[1], neutral[2]);
    const cv::Matx33d to_xyz = matrices.at(correlated_temperature(xy)).inv();
    return white_to_d50(white) * to_xyz * cv::Matx33d::diag(camera) * (1 / (to_xyz * camera)[1]);
}

CameraMatrices own_matrices(const RawPicture& raw) {
    const ColourProfile* own = raw.carried && !raw.carried->profiles.empty() ? &raw.carried->profiles.front() : nullptr;
    if (own && own->dng) return {*own->dng, raw.carried->calibration};
    return raw;
}

cv::Matx33f camera_to_srgb(const RawPicture& raw, const std::array<double, 3>& neutral) {
    if (!raw.has_colours()) return cv::Matx33f::eye();
    const CameraMatrices matrices = own_matrices(raw);
    if (std::abs(cv::determinant(matrices.at(5000))) < 1e-6) return cv::Matx33f::eye();
    cv::Matx33d m = xyz_d50_to_srgb() * camera_to_xyz_d50(matrices, neutral);
    // Removes rounding differences of D50, which must not tint greys.
    for (int row = 0; row < 3; ++row) {
        const double white = m(row, 0) + m(row, 1) + m(row, 2);
        if (!(white > 1e-6)) return cv::Matx33f::eye();
        for (int column = 0; column < 3; ++column) m(row, column) /= white;
    }
    cv::Matx33f out;
    for (int i = 0; i < 9; ++i) out.val[i] = static_cast<float>(m.val[i]);
    return out;
}

}  // namespace optrel
