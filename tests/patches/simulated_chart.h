// SPDX-License-Identifier: GPL-3.0-or-later
// A patch chart with known spectra, photographed by a body with known sensitivities in a known light: what Optrel's
// core is told is the chart file and the frames alone.
#pragma once

#include <cmath>
#include <functional>
#include <random>
#include <vector>

#include "frames/picture.h"
#include "patches/chart_file.h"
#include "patches/colorimetry.h"

namespace optrel::test {

inline double lobe(double nm, double centre, double width) {
    return std::exp(-0.5 * (nm - centre) * (nm - centre) / (width * width));
}

/// A spectrum from a function of the wavelength in nm.
inline Spectrum spectrum_from(const std::function<double(double)>& value) {
    Spectrum out;
    for (std::size_t i = 0; i < spectrum_size; ++i)
        out.push_back(value(spectrum_first_nm + spectrum_step_nm * static_cast<double>(i)));
    return out;
}

struct ChartSpectra {
    int columns = 8, rows = 6;
    std::vector<Spectrum> patches;  ///< row by row; the last row is grey

    explicit ChartSpectra(unsigned seed = 5) {
        std::mt19937_64 random(seed);
        std::uniform_real_distribution<double> one;
        for (int i = 0; i < columns * (rows - 1); ++i) {
            // Pigments: a smooth edge or a band, on a base.
            const double base = 0.03 + 0.12 * one(random), height = 0.2 + 0.6 * one(random),
                         centre = 430 + 230 * one(random), width = 25 + 50 * one(random);
            const int kind = static_cast<int>(3 * one(random));
            patches.push_back(spectrum_from([&](double nm) {
                const double edge = 1 / (1 + std::exp(-(nm - centre) / (0.4 * width)));
                const double shapes[] = {edge, lobe(nm, centre, width), 1 - lobe(nm, centre, width)};
                const double shape = shapes[kind];
                return base + height * shape * (0.9 - base);
            }));
        }
        for (int i = 0; i < columns; ++i) {
            const double grey = 0.88 * std::pow(0.62, i);
            patches.push_back(spectrum_from([&](double nm) { return grey * (1 - 0.01 * lobe(nm, 400, 30)); }));
        }
    }

    PatchChart reference() const {
        PatchChart out;
        out.name = "chart";
        out.columns = columns;
        out.rows = rows;
        out.pitch_mm = 30;
        out.patch_mm = 24;
        out.illuminant = "D50";
        for (int i = 0; i < columns * rows; ++i)
            out.patches.push_back({"P" + std::to_string(i + 1), i % columns, i / columns,
                                   xyz_of(patches[static_cast<std::size_t>(i)], *standard_light("D50"))});
        return out;
    }
};

/// Sensitivities of a body's red, green and blue. `copy` moves them by a few nanometres and percent.
struct BodySensitivities {
    std::array<Spectrum, 3> of;

    explicit BodySensitivities(unsigned copy = 0) {
        std::mt19937_64 random(copy);
        std::normal_distribution<double> normal;
        const double scale = copy == 0 ? 0 : 1;
        const double centres[3] = {602, 536, 456}, widths[3] = {36, 42, 27};
        for (std::size_t c = 0; c < 3; ++c) {
            const double centre = centres[c] + scale * 2 * normal(random), gain = 1 + scale * 0.06 * normal(random),
                         leak = 0.05 + scale * 0.012 * normal(random);
            of[c] = spectrum_from([&](double nm) {
                return gain * (lobe(nm, centre, widths[c]) + leak * lobe(nm, 536, 70)) / (nm > 690 ? 20 : 1);
            });
        }
    }
    /// What a surface gives in a light; 1, 1, 1 would be a perfect diffuser for green's scale.
    std::array<double, 3> response(const Spectrum& surface, const Spectrum& light) const {
        std::array<double, 3> out{};
        double white = 0;
        for (std::size_t i = 0; i < spectrum_size; ++i) {
            for (std::size_t c = 0; c < 3; ++c) out[c] += surface[i] * light[i] * of[c][i];
            white += light[i] * lobe(spectrum_first_nm + spectrum_step_nm * static_cast<double>(i), 536, 42);
        }
        for (double& v : out) v /= white;
        return out;
    }
};

struct ChartPhotograph {
    ChartSpectra chart{5};
    BodySensitivities body{0};
    Spectrum light = *standard_light("D50");
    int width = 1200, height = 800;
    double level = 0.7;                                ///< green of a perfect diffuser, share of the white level
    double share = 0.62;                               ///< of the picture's width that the chart takes
    double turn_degrees = 4;                           ///< in the picture
    double lean = 0.00008;                             ///< perspective
    double noise = 0.004;                              ///< at the white level; falls with the root of the light
    double shade = 0.1;                                ///< light at the right, less than at the left
    std::function<double(int column, int row)> extra;  ///< light added to a patch, as glare would
    unsigned seed = 1;

    cv::Matx33d to_frame() const {
        const double size = share * width / chart.columns, a = turn_degrees * 3.14159265358979 / 180;
        const cv::Matx33d middle(1, 0, -chart.columns / 2.0, 0, 1, -chart.rows / 2.0, 0, 0, 1),
            turn(size * std::cos(a), -size * std::sin(a), 0, size * std::sin(a), size * std::cos(a), 0, 0, 0, 1),
            tilt(1, 0, 0, 0, 1, 0, lean, -0.6 * lean, 1), place(1, 0, width / 2.0, 0, 1, height / 2.0, 0, 0, 1);
        return place * tilt * turn * middle;
    }

    /// Camera values of the surface at a place in cells of the chart.
    std::array<double, 3> at(double x, double y) const {
        static const Spectrum wall = spectrum_from([](double) { return 0.55; }),
                              dark = spectrum_from([](double) { return 0.035; });
        const bool in_frame = x > -0.6 && y > -0.6 && x < chart.columns + 0.6 && y < chart.rows + 0.6;
        if (!in_frame) return body.response(wall, light);
        const int column = static_cast<int>(std::floor(x)), row = static_cast<int>(std::floor(y));
        const bool inside = column >= 0 && row >= 0 && column < chart.columns && row < chart.rows;
        if (!inside || std::abs(x - column - 0.5) > 0.4 || std::abs(y - row - 0.5) > 0.4)
            return body.response(dark, light);
        std::array<double, 3> out =
            body.response(chart.patches[static_cast<std::size_t>(row * chart.columns + column)], light);
        if (extra) {
            const std::array<double, 3> white = body.response(Spectrum(spectrum_size, 1.0), light);
            for (std::size_t c = 0; c < 3; ++c) out[c] += extra(column, row) * white[c];
        }
        return out;
    }

    RawPicture taken() const {
        RawPicture raw;
        raw.counts.create(height, width);
        raw.filter = {{0, 1}, {1, 2}};
        raw.black = SitePattern<double>(512);
        raw.white = 16383;
        raw.has_colour_matrix = true;
        raw.xyz_to_camera = usual_matrix();
        const std::array<double, 3> white = body.response(Spectrum(spectrum_size, 1.0), light);
        raw.as_shot_neutral = {white[0] / white[1], 1, white[2] / white[1]};
        const cv::Matx33d back = to_frame().inv();
        std::mt19937_64 random(seed);
        std::normal_distribution<double> normal;
        for (int row = 0; row < height; ++row)
            for (int i = 0; i < width; ++i) {
                const cv::Vec3d v = back * cv::Vec3d(i + 0.5, row + 0.5, 1);
                const std::size_t c = static_cast<std::size_t>(raw.filter.at(row, i));
                const double lit = 1 - shade * i / width;
                const double value = level * lit * cached(v[0] / v[2], v[1] / v[2])[c];
                const double noisy = value + noise * std::sqrt(std::max(0.0, value) + 0.001) * normal(random);
                raw.counts(row, i) = cv::saturate_cast<ushort>(std::min(16383.0, 512 + noisy * (16383 - 512)));
            }
        return raw;
    }

    /// As a maker would give it: the best linear map from XYZ to the body's values in daylight.
    cv::Matx33d usual_matrix() const {
        const Spectrum daylight_65 = *standard_light("D65");
        cv::Mat1d xyz(static_cast<int>(chart.patches.size()), 3), camera(xyz.size());
        for (int i = 0; i < xyz.rows; ++i) {
            const cv::Vec3d colour = xyz_of(chart.patches[static_cast<std::size_t>(i)], daylight_65);
            const std::array<double, 3> seen = body.response(chart.patches[static_cast<std::size_t>(i)], daylight_65);
            for (int c = 0; c < 3; ++c) {
                xyz(i, c) = colour[c];
                camera(i, c) = seen[static_cast<std::size_t>(c)];
            }
        }
        cv::Mat1d map;
        cv::solve(xyz, camera, map, cv::DECOMP_SVD);
        return cv::Matx33d(cv::Mat(map.t()));
    }

private:
    /// at(), computed once for each surface.
    const std::array<double, 3>& cached(double x, double y) const {
        const bool in_frame = x > -0.6 && y > -0.6 && x < chart.columns + 0.6 && y < chart.rows + 0.6;
        const int column = static_cast<int>(std::floor(x)), row = static_cast<int>(std::floor(y));
        const bool inside = column >= 0 && row >= 0 && column < chart.columns && row < chart.rows;
        const bool patch = in_frame && inside && std::abs(x - column - 0.5) <= 0.4 && std::abs(y - row - 0.5) <= 0.4;
        std::size_t key = in_frame ? 1 : 0;
        if (patch) key = 2 + static_cast<std::size_t>(row * chart.columns + column);
        if (known_.empty()) known_.resize(2 + chart.patches.size());
        if (!known_[key]) known_[key] = at(x, y);
        return *known_[key];
    }
    mutable std::vector<std::optional<std::array<double, 3>>> known_;
};

}  // namespace optrel::test
