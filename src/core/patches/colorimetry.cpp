// SPDX-License-Identifier: GPL-3.0-or-later
#include "patches/colorimetry.h"

#include <algorithm>
#include <array>
#include <cmath>

#include "base/angle.h"

namespace optrel {
namespace {

using Table = std::array<double, spectrum_size>;

// The observer of 1931 (CIE 15:2018, table 1, every 10 nm).
constexpr Table x_bar{0.0014, 0.0042, 0.0143, 0.0435, 0.1344, 0.2839, 0.3483, 0.3362, 0.2908, 0.1954, 0.0956,
                      0.0320, 0.0049, 0.0093, 0.0633, 0.1655, 0.2904, 0.4334, 0.5945, 0.7621, 0.9163, 1.0263,
                      1.0622, 1.0026, 0.8544, 0.6424, 0.4479, 0.2835, 0.1649, 0.0874, 0.0468, 0.0227, 0.0114,
                      0.0058, 0.0029, 0.0014, 0.0007, 0.0003, 0.0002, 0.0001, 0.0000};
constexpr Table y_bar{0.0000, 0.0001, 0.0004, 0.0012, 0.0040, 0.0116, 0.0230, 0.0380, 0.0600, 0.0910, 0.1390,
                      0.2080, 0.3230, 0.5030, 0.7100, 0.8620, 0.9540, 0.9950, 0.9950, 0.9520, 0.8700, 0.7570,
                      0.6310, 0.5030, 0.3810, 0.2650, 0.1750, 0.1070, 0.0610, 0.0320, 0.0170, 0.0082, 0.0041,
                      0.0021, 0.0010, 0.0005, 0.0003, 0.0001, 0.0001, 0.0000, 0.0000};
constexpr Table z_bar{0.0065, 0.0201, 0.0679, 0.2074, 0.6456, 1.3856, 1.7471, 1.7721, 1.6692, 1.2876, 0.8130,
                      0.4652, 0.2720, 0.1582, 0.0782, 0.0422, 0.0203, 0.0087, 0.0039, 0.0021, 0.0017, 0.0011,
                      0.0008, 0.0003, 0.0002, 0.0000, 0.0000, 0.0000, 0.0000, 0.0000, 0.0000, 0.0000, 0.0000,
                      0.0000, 0.0000, 0.0000, 0.0000, 0.0000, 0.0000, 0.0000, 0.0000};
// The components of daylight (CIE 15:2018, table 6, every 10 nm).
constexpr Table s0{63.4,  65.8,  94.8,  104.8, 105.9, 96.8, 113.9, 125.6, 125.5, 121.3, 121.3, 113.5, 113.1, 110.8,
                   106.5, 108.8, 105.3, 104.4, 100.0, 96.0, 95.1,  89.1,  90.5,  90.3,  88.4,  84.0,  85.1,  81.9,
                   82.6,  84.9,  81.3,  71.9,  74.3,  76.4, 63.3,  71.7,  77.0,  65.2,  47.7,  68.6,  65.0};
constexpr Table s1{38.5,  35.0,  43.4,  46.3,  43.9,  37.1,  36.7,  35.9,  32.6,  27.9,  24.3, 20.1,  16.2,  13.2,
                   8.6,   6.1,   4.2,   1.9,   0.0,   -1.6,  -3.5,  -3.5,  -5.8,  -7.2,  -8.6, -9.5,  -10.9, -10.7,
                   -12.0, -14.0, -13.6, -12.0, -13.3, -12.9, -10.6, -11.6, -12.2, -10.2, -7.8, -11.2, -10.4};
constexpr Table s2{3.0,  1.2,  -1.1, -0.5, -0.7, -1.2, -2.6, -2.9, -2.8, -2.6, -2.6, -1.8, -1.5, -1.3,
                   -1.2, -1.0, -0.5, -0.3, 0.0,  0.2,  0.5,  2.1,  3.2,  4.1,  4.7,  5.1,  6.7,  7.3,
                   8.6,  9.8,  10.2, 8.3,  9.6,  8.5,  7.0,  7.6,  8.0,  6.7,  5.2,  7.4,  6.8};

constexpr double radiation_nm_k = 1.4388e7;

double lab_function(double t) {
    constexpr double d = 6.0 / 29;
    return t > d * d * d ? std::cbrt(t) : t / (3 * d * d) + 4.0 / 29;
}

double lab_inverse(double f) {
    constexpr double d = 6.0 / 29;
    return f > d ? f * f * f : 3 * d * d * (f - 4.0 / 29);
}

double hue_of(double a, double b) {
    if (a == 0 && b == 0) return 0;
    const double h = std::atan2(b, a) * 180 / pi;
    return h < 0 ? h + 360 : h;
}

double cos_degrees(double degrees) { return std::cos(degrees * pi / 180); }

/// The terms of CIEDE2000: weighted differences, and the rotation.
struct Terms {
    double lightness, chroma, hue, rotation;
};

Terms terms_of(const cv::Vec3d& p, const cv::Vec3d& q) {
    const double mean_chroma = (std::hypot(p[1], p[2]) + std::hypot(q[1], q[2])) / 2;
    const double c7 = std::pow(mean_chroma, 7), g = 0.5 * (1 - std::sqrt(c7 / (c7 + std::pow(25.0, 7))));
    const double a1 = (1 + g) * p[1], a2 = (1 + g) * q[1];
    const double c1 = std::hypot(a1, p[2]), c2 = std::hypot(a2, q[2]);
    const double h1 = hue_of(a1, p[2]), h2 = hue_of(a2, q[2]);
    double dh = 0, mean_hue = h1 + h2;
    if (c1 * c2 > 0) {
        dh = h2 - h1;
        if (dh > 180) dh -= 360;
        if (dh < -180) dh += 360;
        if (std::abs(h1 - h2) <= 180)
            mean_hue = (h1 + h2) / 2;
        else
            mean_hue = (h1 + h2 + (h1 + h2 < 360 ? 360 : -360)) / 2;
    }
    const double big_h = 2 * std::sqrt(c1 * c2) * std::sin(dh / 2 * pi / 180);
    const double l = (p[0] + q[0]) / 2, c = (c1 + c2) / 2;
    const double t = 1 - 0.17 * cos_degrees(mean_hue - 30) + 0.24 * cos_degrees(2 * mean_hue) +
                     0.32 * cos_degrees(3 * mean_hue + 6) - 0.20 * cos_degrees(4 * mean_hue - 63);
    const double theta = 30 * std::exp(-std::pow((mean_hue - 275) / 25, 2));
    const double m7 = std::pow(c, 7), rc = 2 * std::sqrt(m7 / (m7 + std::pow(25.0, 7)));
    const double sl = 1 + 0.015 * (l - 50) * (l - 50) / std::sqrt(20 + (l - 50) * (l - 50)), sc = 1 + 0.045 * c,
                 sh = 1 + 0.015 * c * t;
    return {(q[0] - p[0]) / sl, (c2 - c1) / sc, big_h / sh, -std::sin(2 * theta * pi / 180) * rc};
}

}  // namespace

Spectrum planckian_light(double kelvin) {
    const auto power = [&](double nm) {
        return std::pow(560 / nm, 5) / (std::exp(radiation_nm_k / (kelvin * nm)) - 1);
    };
    Spectrum out;
    for (std::size_t i = 0; i < spectrum_size; ++i)
        out.push_back(100 * power(spectrum_first_nm + spectrum_step_nm * static_cast<double>(i)) / power(560));
    return out;
}

Spectrum daylight(double t) {
    const double x = t <= 7000 ? -4.6070e9 / (t * t * t) + 2.9678e6 / (t * t) + 0.09911e3 / t + 0.244063
                               : -2.0064e9 / (t * t * t) + 1.9018e6 / (t * t) + 0.24748e3 / t + 0.237040;
    const double y = -3.000 * x * x + 2.870 * x - 0.275;
    const double m = 0.0241 + 0.2562 * x - 0.7341 * y, m1 = (-1.3515 - 1.7703 * x + 5.9114 * y) / m,
                 m2 = (0.0300 - 31.4424 * x + 30.0717 * y) / m;
    Spectrum out;
    for (std::size_t i = 0; i < spectrum_size; ++i) out.push_back(s0[i] + m1 * s1[i] + m2 * s2[i]);
    return out;
}

std::optional<Spectrum> standard_light(const std::string& name) {
    // The radiation constant was redefined after these lights, so their temperatures moved.
    constexpr double moved = radiation_nm_k / 1.4380e7;
    if (name == "A") return planckian_light(2848 * radiation_nm_k / 1.435e7);
    if (name == "D50") return daylight(5000 * moved);
    if (name == "D55") return daylight(5500 * moved);
    if (name == "D65") return daylight(6500 * moved);
    if (name == "D75") return daylight(7500 * moved);
    return std::nullopt;
}

cv::Vec3d xyz_of(const Spectrum& reflectance, const Spectrum& light) {
    cv::Vec3d out;
    double whole = 0;
    for (std::size_t i = 0; i < spectrum_size; ++i) {
        out += reflectance[i] * light[i] * cv::Vec3d(x_bar[i], y_bar[i], z_bar[i]);
        whole += light[i] * y_bar[i];
    }
    return out * (1 / whole);
}

cv::Vec3d white_of(const Spectrum& light) { return xyz_of(Spectrum(spectrum_size, 1.0), light); }

cv::Vec3d lab_of(const cv::Vec3d& xyz, const cv::Vec3d& white) {
    const double x = lab_function(xyz[0] / white[0]), y = lab_function(xyz[1] / white[1]),
                 z = lab_function(xyz[2] / white[2]);
    return {116 * y - 16, 500 * (x - y), 200 * (y - z)};
}

cv::Vec3d xyz_of_lab(const cv::Vec3d& lab, const cv::Vec3d& white) {
    const double y = (lab[0] + 16) / 116;
    return {white[0] * lab_inverse(y + lab[1] / 500), white[1] * lab_inverse(y),
            white[2] * lab_inverse(y - lab[2] / 200)};
}

double de2000(const cv::Vec3d& lab_1, const cv::Vec3d& lab_2) {
    const Terms t = terms_of(lab_1, lab_2);
    return std::sqrt(
        std::max(0.0, t.lightness * t.lightness + t.chroma * t.chroma + t.hue * t.hue + t.rotation * t.chroma * t.hue));
}

Spread spread_of(std::vector<double> differences) {
    Spread out;
    if (differences.empty()) return out;
    for (const double d : differences) out.mean += d / static_cast<double>(differences.size());
    std::sort(differences.begin(), differences.end());
    out.p95 = differences[static_cast<std::size_t>(std::lround(0.95 * static_cast<double>(differences.size() - 1)))];
    out.largest = differences.back();
    return out;
}

cv::Vec3d de2000_parts(const cv::Vec3d& lab_1, const cv::Vec3d& lab_2) {
    const Terms t = terms_of(lab_1, lab_2);
    return {t.lightness, t.chroma, t.hue};
}

}  // namespace optrel
