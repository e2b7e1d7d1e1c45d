// SPDX-License-Identifier: GPL-3.0-or-later
#include "films/film_light.h"

#include <algorithm>
#include <bit>
#include <cmath>

#include "render/strips.h"

namespace optrel {
namespace {

constexpr double hlg_a = 0.17883277, hlg_b = 0.28466892, hlg_c = 0.55991073;
constexpr double pq_m1 = 2610.0 / 16384, pq_m2 = 2523.0 / 32, pq_c1 = 3424.0 / 4096, pq_c2 = 2413.0 / 128,
                 pq_c3 = 2392.0 / 128;
/// The planes of films are in the order green, blue, red.
constexpr int channel_of[] = {1, 2, 0};

}  // namespace

std::string to_string(FilmCurve curve) {
    static constexpr const char* names[] = {"BT.709", "sRGB", "gamma 2.2", "gamma 2.8", "HLG", "PQ", "linear"};
    return names[static_cast<int>(curve)];
}

double light_of(FilmCurve curve, double v) {
    switch (curve) {
        case FilmCurve::bt709:
            return v < 0.0812428582986315 ? v / 4.5 : std::pow((v + 0.0992968) / 1.0992968, 1 / 0.45);
        case FilmCurve::srgb: return v <= 0.04045 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4);
        case FilmCurve::gamma22: return std::pow(v, 2.2);
        case FilmCurve::gamma28: return std::pow(v, 2.8);
        case FilmCurve::hlg: return v <= 0.5 ? v * v / 3 : (std::exp((v - hlg_c) / hlg_a) + hlg_b) / 12;
        case FilmCurve::pq: {
            const double p = std::pow(v, 1 / pq_m2);
            return std::pow(std::max(0.0, p - pq_c1) / (pq_c2 - pq_c3 * p), 1 / pq_m1);
        }
        default: return v;
    }
}

double value_of(FilmCurve curve, double light) {
    const double l = std::max(0.0, light);
    switch (curve) {
        case FilmCurve::bt709: return l < 0.018053968510807 ? 4.5 * l : 1.0992968 * std::pow(l, 0.45) - 0.0992968;
        case FilmCurve::srgb: return l <= 0.0031308 ? 12.92 * l : 1.055 * std::pow(l, 1 / 2.4) - 0.055;
        case FilmCurve::gamma22: return std::pow(l, 1 / 2.2);
        case FilmCurve::gamma28: return std::pow(l, 1 / 2.8);
        case FilmCurve::hlg: return l <= 1.0 / 12 ? std::sqrt(3 * l) : hlg_a * std::log(12 * l - hlg_b) + hlg_c;
        case FilmCurve::pq: {
            const double p = std::pow(l, pq_m1);
            return std::pow((pq_c1 + pq_c2 * p) / (1 + pq_c3 * p), pq_m2);
        }
        default: return l;
    }
}

namespace {

/// 512 entries for each power of two, from 2^-40, far below the first step of any curve, up to 1.
constexpr int dropped_bits = 14, powers = 40;
constexpr std::uint32_t lowest = std::uint32_t(127 - powers) << 23;
constexpr std::size_t entries = std::size_t(powers) << (23 - dropped_bits);

}  // namespace

FilmLight::FilmLight(FilmCurve curve) : light_(65536), values_(entries + 1) {
    for (int i = 0; i < 65536; ++i)
        light_[static_cast<std::size_t>(i)] = static_cast<float>(light_of(curve, i / 65535.0));
    const auto value = [&](std::size_t i) {
        const float light = std::bit_cast<float>(lowest + (static_cast<std::uint32_t>(i) << dropped_bits));
        const double v = std::min(1.0, value_of(curve, i == 0 ? 0 : light));
        return static_cast<std::uint32_t>(std::lround(65535 * curve_table_parts * v));
    };
    std::uint32_t next = value(entries);
    values_[entries] = next << curve_table_step_bits;
    for (std::size_t i = entries; i-- > 0;) {
        const std::uint32_t here = value(i);
        values_[i] = here << curve_table_step_bits | (next - here);
        next = here;
    }
}

CurveTable FilmLight::table() const { return {values_.data(), lowest, dropped_bits}; }

void FilmLight::to_light(const std::array<const std::uint16_t*, 3>& gbr, const std::array<int, 3>& stride,
                         const Planes& gain, Planes& out) const {
    for_strips(out.size().height, [&](int first, int end) {
        for (int row = first; row < end; ++row)
            for (std::size_t p = 0; p < 3; ++p) {
                const std::uint16_t* in = gbr[p] + std::ptrdiff_t(row) * stride[p];
                float* to = out.channel[static_cast<std::size_t>(channel_of[p])].ptr<float>(row);
                const cv::Mat1f& by = gain.channel[static_cast<std::size_t>(channel_of[p])];
                if (by.empty()) {
                    for (int i = 0; i < out.size().width; ++i) to[i] = light_[in[i]];
                } else {
                    const float* g = by.ptr<float>(row);
                    for (int i = 0; i < out.size().width; ++i) to[i] = light_[in[i]] * g[i];
                }
            }
    });
}

void FilmLight::to_values(const Planes& in, const std::array<std::uint16_t*, 3>& gbr,
                          const std::array<int, 3>& stride) const {
    for_strips(in.size().height, [&](int first, int end) {
        for (int row = first; row < end; ++row)
            for (std::size_t p = 0; p < 3; ++p) {
                const float* from = in.channel[static_cast<std::size_t>(channel_of[p])].ptr<float>(row);
                std::uint16_t* to = gbr[p] + std::ptrdiff_t(row) * stride[p];
                film_values(from, table(), in.size().width, to);
            }
    });
}

}  // namespace optrel
