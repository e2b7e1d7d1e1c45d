// SPDX-License-Identifier: GPL-3.0-or-later
// The camera matrix against an evaluation of the DNG specification that shares nothing with the program: Robertson's
// isotemperature lines, the specification's iteration for the white, its Bradford adaptation, in plain arrays.
#include <algorithm>
#include <array>
#include <catch2/catch.hpp>
#include <cmath>

#include "render/colour.h"

using namespace optrel;

namespace {

using Vector = std::array<double, 3>;
using Matrix = std::array<Vector, 3>;

Vector times(const Matrix& m, const Vector& v) {
    Vector out{};
    for (int r = 0; r < 3; ++r)
        for (int c = 0; c < 3; ++c) out[r] += m[r][c] * v[c];
    return out;
}
Matrix inverse(const Matrix& m) {
    Matrix out{};
    const auto minor = [&](int r, int c) {
        const int a = (r + 1) % 3, b = (r + 2) % 3, d = (c + 1) % 3, e = (c + 2) % 3;
        return m[a][d] * m[b][e] - m[a][e] * m[b][d];
    };
    double whole = 0;
    for (int c = 0; c < 3; ++c) whole += m[0][c] * minor(0, c);
    for (int r = 0; r < 3; ++r)
        for (int c = 0; c < 3; ++c) out[r][c] = minor(c, r) / whole;
    return out;
}

/// Wyszecki and Stiles, Color Science, second edition, table 1(3.11): mired, u, v and the slope of the line.
constexpr std::array<std::array<double, 4>, 31> lines{
    {{0, .18006, .26352, -.24341},   {10, .18066, .26589, -.25479},  {20, .18133, .26846, -.26876},
     {30, .18208, .27119, -.28539},  {40, .18293, .27407, -.30470},  {50, .18388, .27709, -.32675},
     {60, .18494, .28021, -.35156},  {70, .18611, .28342, -.37915},  {80, .18740, .28668, -.40955},
     {90, .18880, .28997, -.44278},  {100, .19032, .29326, -.47888}, {125, .19462, .30141, -.58204},
     {150, .19962, .30921, -.70471}, {175, .20525, .31647, -.84901}, {200, .21142, .32312, -1.0182},
     {225, .21807, .32909, -1.2168}, {250, .22511, .33439, -1.4512}, {275, .23247, .33904, -1.7298},
     {300, .24010, .34308, -2.0637}, {325, .24792, .34655, -2.4681}, {350, .25591, .34951, -2.9641},
     {375, .26400, .35200, -3.5814}, {400, .27218, .35407, -4.3633}, {425, .28039, .35577, -5.3762},
     {450, .28863, .35714, -6.7262}, {475, .29685, .35823, -8.5955}, {500, .30505, .35907, -11.324},
     {525, .31320, .35968, -15.628}, {550, .32129, .36011, -23.325}, {575, .32931, .36038, -40.770},
     {600, .33724, .36051, -116.45}}};

double kelvin_of(double x, double y) {
    const double u = 2 * x / (1.5 - x + 6 * y), v = 3 * y / (1.5 - x + 6 * y);
    double before = 0;
    for (std::size_t i = 0; i < lines.size(); ++i) {
        const auto& [mired, lu, lv, slope] = lines[i];
        const double distance = ((v - lv) - slope * (u - lu)) / std::sqrt(1 + slope * slope);
        if (i > 0 && distance <= 0) {
            const double share = before / (before - distance);
            return 1e6 / (lines[i - 1][0] + share * (mired - lines[i - 1][0]));
        }
        before = distance;
    }
    return 1e6 / 600;
}

struct Camera {
    Matrix warm, cool;  ///< XYZ to camera, in standard light A and in D65
    double warm_kelvin = 2856, cool_kelvin = 6504;

    Matrix at(double kelvin) const {
        double share = (1 / warm_kelvin - 1 / kelvin) / (1 / warm_kelvin - 1 / cool_kelvin);
        share = std::min(1.0, std::max(0.0, share));
        Matrix out{};
        for (int r = 0; r < 3; ++r)
            for (int c = 0; c < 3; ++c) out[r][c] = (1 - share) * warm[r][c] + share * cool[r][c];
        return out;
    }
};

struct White {
    Matrix to_xyz;
    double x, y;
};

/// Chapter 6, "Translating Camera Neutral Coordinates to White Balance xy Coordinates".
White white_of(const Camera& camera, const Vector& neutral) {
    White out{{}, 0.3457, 0.3585};
    for (int i = 0; i < 60; ++i) {
        out.to_xyz = inverse(camera.at(kelvin_of(out.x, out.y)));
        const Vector xyz = times(out.to_xyz, neutral);
        const double sum = xyz[0] + xyz[1] + xyz[2];
        out.x = xyz[0] / sum;
        out.y = xyz[1] / sum;
    }
    return out;
}

/// XYZ of D50 of camera values that are not balanced.
Vector by_specification(const Camera& camera, const Vector& neutral, const Vector& values) {
    const Matrix bradford{{{.8951, .2664, -.1614}, {-.7502, 1.7135, .0367}, {.0389, -.0685, 1.0296}}};
    const White white = white_of(camera, neutral);
    const Vector from = times(bradford, {white.x / white.y, 1, (1 - white.x - white.y) / white.y});
    const Vector to = times(bradford, {0.9642, 1, 0.8251});
    Vector cones = times(bradford, times(white.to_xyz, values));
    for (int c = 0; c < 3; ++c) cones[c] *= to[c] / from[c];
    Vector out = times(inverse(bradford), cones);
    const double grey = times(white.to_xyz, neutral)[1];
    for (double& v : out) v /= grey;
    return out;
}

Vector lab(const Vector& xyz) {
    const double white[3] = {0.9642, 1, 0.8251};
    double f[3];
    for (int i = 0; i < 3; ++i) {
        const double t = xyz[i] / white[i];
        f[i] = t > 216.0 / 24389 ? std::cbrt(t) : (24389.0 / 27 * t + 16) / 116;
    }
    return {116 * f[1] - 16, 500 * (f[0] - f[1]), 200 * (f[1] - f[2])};
}

cv::Matx33d matx(const Matrix& m) {
    cv::Matx33d out;
    for (int r = 0; r < 3; ++r)
        for (int c = 0; c < 3; ++c) out(r, c) = m[r][c];
    return out;
}

}  // namespace

TEST_CASE("the camera matrix agrees with an independent evaluation of the DNG specification", "[render][colour]") {
    const Camera camera{{{{1.02, -.36, -.04}, {-.42, 1.26, .17}, {-.06, .20, .62}}},
                        {{{.86, -.24, -.08}, {-.46, 1.24, .25}, {-.10, .22, .58}}}};
    DngColours profile;
    ProfileLight warm, cool;
    warm.kelvin = camera.warm_kelvin;
    warm.xyz_to_camera = matx(camera.warm);
    cool.kelvin = camera.cool_kelvin;
    cool.xyz_to_camera = matx(camera.cool);
    profile.lights = {warm, cool};
    const CameraMatrices matrices(profile, {});
    // Lights along the locus of daylight and of black bodies, and one on each side of it.
    const std::array<std::array<double, 2>, 7> lights{{{.4476, .4074},
                                                       {.4053, .3907},
                                                       {.3608, .3636},
                                                       {.3457, .3585},
                                                       {.3324, .3474},
                                                       {.3127, .3290},
                                                       {.3600, .3800}}};
    const std::array<Vector, 6> patches{
        {{.12, .09, .05}, {.35, .34, .26}, {.18, .19, .33}, {.13, .11, .06}, {.20, .12, .05}, {.55, .58, .09}}};
    for (const auto& [x, y] : lights) {
        const Matrix truth = camera.at(kelvin_of(x, y));
        Vector neutral = times(truth, {x / y, 1, (1 - x - y) / y});
        const double largest = std::max({neutral[0], neutral[1], neutral[2]});
        for (double& v : neutral) v /= largest;
        const cv::Matx33d ours = camera_to_xyz_d50(matrices, neutral);
        for (const Vector& patch : patches) {
            Vector values = times(truth, patch);
            for (double& v : values) v /= largest;
            const cv::Vec3d got =
                ours * cv::Vec3d(values[0] / neutral[0], values[1] / neutral[1], values[2] / neutral[2]);
            const Vector a = lab(by_specification(camera, neutral, values)), b = lab({got[0], got[1], got[2]});
            INFO("light " << x << " " << y);
            CHECK(std::hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]) < 0.1);
        }
    }
}
