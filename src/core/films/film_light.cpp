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
/// Planes of moving pictures come green, blue, red.
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

/// 512 entries for each power of two, from 2^-40, which is far below the first step of any curve, up to 1.
constexpr int dropped_bits = 14, powers = 40;
constexpr std::uint32_t lowest = std::uint32_t(127 - powers) << 23;
constexpr std::size_t entries = std::size_t(powers) << (23 - dropped_bits);

/// Places in the table for a row of light, in steps that the compiler makes several of at a time; the values are looked
/// up one by one after that.
constexpr int at_once = 64;
void look_up(const float* light, const float* table, int count, std::uint16_t* out) {
    constexpr std::uint32_t below = (1u << dropped_bits) - 1;
    constexpr float share = 1.f / (1u << dropped_bits);
    const float least = std::bit_cast<float>(lowest);
    std::array<std::uint32_t, at_once> place{};
    std::array<float, at_once> part{};
    for (std::size_t k = 0; k < at_once; ++k) {
        // In this order what is no number becomes black.
        const float within = std::min(1.f, std::max(least, light[k]));
        const std::uint32_t at = std::bit_cast<std::uint32_t>(within) - lowest;
        place[k] = at >> dropped_bits;
        part[k] = static_cast<float>(static_cast<std::int32_t>(at & below)) * share;
    }
    for (std::size_t k = 0; k < static_cast<std::size_t>(count); ++k) {
        const float* t = table + place[k];
        out[k] = static_cast<std::uint16_t>(static_cast<std::int32_t>(t[0] + part[k] * (t[1] - t[0]) + 0.5f));
    }
}

}  // namespace

FilmLight::FilmLight(FilmCurve curve) : light_(65536), values_(entries + 2) {
    for (int i = 0; i < 65536; ++i)
        light_[static_cast<std::size_t>(i)] = static_cast<float>(light_of(curve, i / 65535.0));
    for (std::size_t i = 0; i < values_.size(); ++i) {
        const float light = std::bit_cast<float>(lowest + (static_cast<std::uint32_t>(i) << dropped_bits));
        values_[i] = static_cast<float>(65535 * std::min(1.0, value_of(curve, light)));
    }
    values_[0] = static_cast<float>(65535 * value_of(curve, 0));
}

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
                const int width = in.size().width;
                int i = 0;
                for (; i + at_once <= width; i += at_once) look_up(from + i, values_.data(), at_once, to + i);
                if (i < width) {
                    std::array<float, at_once> last{};
                    std::copy(from + i, from + width, last.begin());
                    look_up(last.data(), values_.data(), width - i, to + i);
                }
            }
    });
}

}  // namespace optrel
