// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/noise_need.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <complex>
#include <map>

#include "base/angle.h"
#include "base/error.h"
#include "frames/colour_space.h"
#include "render/cielab.h"
#include "render/develop.h"
#include "render/simulated_frame.h"

namespace optrel {
namespace {

// The target: an even patch on the left, texture below it, a slanted edge on the right. Sizes are multiples of six, so
// that every filter fits.
constexpr int width = 720, height = 480, half = width / 2;
constexpr int border = 24;
const cv::Rect even_part(border, border, half - 2 * border, 2 * height / 3 - 2 * border),
    texture_part(border, 2 * height / 3, half - 2 * border, height / 3 - border),
    edge_part(half + border, border, half - 2 * border, height - 2 * border);
constexpr double edge_slope = 0.0875;  ///< 5 degrees against the columns
constexpr double texture_contrast = 0.08;

/// Light of the texture: waves of many directions between 4 and 16 px, which stand for fibres and grain.
double texture_at(double u, double v) {
    double sum = 0;
    for (int k = 0; k < 8; ++k) {
        const double angle = k * pi / 8 + 0.1, period = 4 * std::pow(2.0, k % 3);
        sum += std::sin(2 * pi * (u * std::cos(angle) + v * std::sin(angle)) / period + 1.7 * k);
    }
    return sum / 4;
}

/// Place of the edge in a row, px.
double edge_at(double v) { return half + half / 2.0 + edge_slope * (v - height / 2.0); }

/// Linear light of a pixel, means over its area where the light changes quickly.
double light_at(int column, int row, double grey) {
    const double u = column + 0.5, v = row + 0.5;
    if (column < half) {
        if (row < 2 * height / 3) return grey;
        return grey * (1 + texture_contrast * texture_at(u, v));
    }
    const double bright = std::clamp(u + 0.5 - edge_at(v), 0.0, 1.0);
    return grey * (0.6 + 0.8 * bright);
}

RawPicture target_of(const NoisyBody& body, double grey, bool noisy) {
    SimulatedLight light{{width, height}, {}, {}, 20261201};
    light.at = [&](int row, int column, std::size_t channel) {
        const double here = light_at(column, row, grey);
        return body.like.has_colours() ? here * body.like.as_shot_neutral[channel] : here;
    };
    if (noisy) light.noise = body.terms;
    RawPicture raw = simulated_frame(body.like, light);
    raw.noise = light.noise;
    return raw;
}

/// The part of a picture that was reduced.
cv::Rect reduced(const cv::Rect& part, double factor) {
    const cv::Point from(static_cast<int>(std::ceil(part.x * factor)), static_cast<int>(std::ceil(part.y * factor)));
    const cv::Point to(static_cast<int>(part.br().x * factor), static_cast<int>(part.br().y * factor));
    return {from, to};
}

cv::Vec3d lab_at(const cv::Mat3w& rgb, int row, int column) {
    const cv::Vec3w& v = rgb(row, column);
    const std::vector<float>& light = srgb_light();
    return cielab({light[v[0]], light[v[1]], light[v[2]]});
}

/// Standard deviations of L*, a* and b*.
cv::Vec3d deviations(const cv::Mat3w& rgb, const cv::Rect& part) {
    cv::Vec3d sum, square;
    for (int row = part.y; row < part.br().y; ++row)
        for (int i = part.x; i < part.br().x; ++i) {
            const cv::Vec3d lab = lab_at(rgb, row, i);
            sum += lab;
            square += lab.mul(lab);
        }
    const double n = std::max(1, part.area());
    cv::Vec3d out;
    for (int c = 0; c < 3; ++c) out[c] = std::sqrt(std::max(0.0, square[c] / n - sum[c] / n * (sum[c] / n)));
    return out;
}

/// Contrast of L* that follows the texture of a picture without noise: the slope of a regression.
double texture_left(const cv::Mat3w& rgb, const cv::Mat3w& clean, const cv::Rect& part) {
    double n = 0, x = 0, y = 0, xx = 0, xy = 0;
    for (int row = part.y; row < part.br().y; ++row)
        for (int i = part.x; i < part.br().x; ++i) {
            const double of_clean = lab_at(clean, row, i)[0], own = lab_at(rgb, row, i)[0];
            n += 1;
            x += of_clean;
            y += own;
            xx += of_clean * of_clean;
            xy += of_clean * own;
        }
    const double spread = n * xx - x * x;
    return spread > 0 ? (n * xy - x * y) / spread : 0;
}

/// Spatial frequency at which the modulation of the edge is one half, cycles per pixel (ISO 12233: the edge is
/// projected along its known direction, binned to quarters of a pixel, differentiated).
double edge_mtf50(const cv::Mat3w& rgb, const cv::Rect& part, double factor) {
    constexpr int bins_in_px = 4, reach = 14;
    constexpr int bins = 2 * reach * bins_in_px;
    std::array<double, bins> sum{}, count{};
    const double cosine = 1 / std::hypot(1.0, edge_slope);
    for (int row = part.y; row < part.br().y; ++row)
        for (int i = part.x; i < part.br().x; ++i) {
            const double across = (i + 0.5 - factor * edge_at((row + 0.5) / factor)) * cosine;
            const int bin = static_cast<int>(std::floor((across + reach) * bins_in_px));
            if (bin < 0 || bin >= bins) continue;
            sum[static_cast<std::size_t>(bin)] += srgb_light()[rgb(row, i)[1]];
            count[static_cast<std::size_t>(bin)] += 1;
        }
    std::vector<double> spread;
    for (std::size_t k = 1; k < bins; ++k)
        if (count[k] > 0 && count[k - 1] > 0) spread.push_back(sum[k] / count[k] - sum[k - 1] / count[k - 1]);
    const auto modulation = [&](double cycles_per_px) {
        std::complex<double> out;
        for (std::size_t k = 0; k < spread.size(); ++k)
            out += spread[k] * std::polar(1.0, -2 * pi * cycles_per_px * static_cast<double>(k) / bins_in_px);
        return std::abs(out);
    };
    const double whole = modulation(0);
    if (!(whole > 0)) return 0;
    double before = 1;
    for (double f = 0.01; f < 1; f += 0.01) {
        const double now = modulation(f) / whole;
        if (now < 0.5) return f - 0.01 * (0.5 - now) / std::max(1e-9, before - now);
        before = now;
    }
    return 1;
}

/// The target is reduced with the frame; smaller than this, it has too few pixels to be measured.
constexpr int smallest_target = 90;

void require_size(const NoisyBody& body, const NoiseLimit& limit) {
    const double least = std::ceil(double(smallest_target) * body.longest_side / width);
    if (limit.longest_side < 0 || (limit.longest_side > 0 && limit.longest_side < least))
        throw input_error(
            fmt::format("Noise cannot be judged at an output of {} px for frames of {} px; give {:g} px or "
                        "more, or 0 for the whole size.",
                        limit.longest_side, body.longest_side, least));
}

/// One body and one output size, developed again and again.
class Target {
public:
    Target(const NoisyBody& body, const ResolvedFrame& fields, const NoiseLimit& limit, const Progress& progress)
        : noisy_(target_of(body, limit.grey, true)),
          clean_(target_of(body, limit.grey, false)),
          fields_(fields),
          progress_(progress) {
        require_size(body, limit);
        if (limit.longest_side > 0 && limit.longest_side < body.longest_side)
            form_.longest_side = static_cast<int>(std::lround(double(width) * limit.longest_side / body.longest_side));
        clean_look_ = developed(clean_, 0, 0);
    }

    SeenNoise seen(double luminance, double colour) const {
        const cv::Mat3w rgb = developed(noisy_, luminance, colour);
        const double factor = double(rgb.cols) / width;
        const cv::Vec3d sigma = deviations(rgb, reduced(even_part, factor));
        SeenNoise out;
        out.lightness = sigma[0];
        out.colour = std::max(sigma[1], sigma[2]);
        out.mtf50 = edge_mtf50(rgb, reduced(edge_part, factor), factor);
        out.texture = texture_left(rgb, clean_look_, reduced(texture_part, factor));
        return out;
    }

private:
    cv::Mat3w developed(const RawPicture& raw, double luminance, double colour) const {
        ResolvedFrame f = fields_;
        f.fields[static_cast<int>(Field::luminance_noise)].value.number = luminance;
        f.fields[static_cast<int>(Field::colour_noise)].value.number = colour;
        return develop(raw, CaptureGeometry{4, 50, 1}, f, std::nullopt, progress_, form_).rgb;
    }

    RawPicture noisy_, clean_;
    ResolvedFrame fields_;
    const Progress& progress_;
    PictureForm form_;
    cv::Mat3w clean_look_;
};

/// The least whole number from 0 to 100 that `enough` accepts; 100 when none does. `enough` holds for every number
/// above one for which it holds.
template <class Enough>
int least_strength(const Enough& enough) {
    if (enough(0)) return 0;
    int low = 0, high = 100;
    while (high - low > 1) {
        const int middle = (low + high) / 2;
        (enough(middle) ? high : low) = middle;
    }
    return high;
}

/// Only what acts on tones, noise and sharpness: a correction of the lens would move the target, and levels and hot
/// pixels are matters of a whole frame.
ResolvedFrame without_geometry(ResolvedFrame fields) {
    const ResolvedFrame neutral = neutral_start();
    for (int i = 0; i < field_count; ++i) {
        const Field f = static_cast<Field>(i);
        const FieldGroup group = group_of(f);
        if (group == FieldGroup::lens || group == FieldGroup::by_hand || group == FieldGroup::framing)
            fields.fields[i] = neutral.fields[i];
    }
    for (const Field f : {Field::auto_levels, Field::hot_pixel_repair, Field::noise_elsewhere})
        fields.fields[static_cast<int>(f)].value.text = "off";
    return fields;
}

}  // namespace

SeenNoise seen_noise(const NoisyBody& body, const ResolvedFrame& fields, const NoiseLimit& limit,
                     const Progress& progress) {
    const Target target(body, without_geometry(fields), limit, progress);
    return target.seen(fields[Field::luminance_noise].value.number, fields[Field::colour_noise].value.number);
}

NoiseNeed noise_need(const NoisyBody& body, const ResolvedFrame& fields, const NoiseLimit& limit,
                     const Progress& progress) {
    if (!(limit.lightness > 0) || !(limit.colour > 0))
        throw input_error(
            "A limit of noise must be above 0; give the largest standard deviation of L*, and of a* and b*.");
    const Target target(body, without_geometry(fields), limit, progress);
    std::map<std::pair<int, int>, SeenNoise> known;
    const auto seen = [&](int luminance, int colour) -> const SeenNoise& {
        const auto at = known.find({luminance, colour});
        if (at != known.end()) return at->second;
        progress.check();
        return known.emplace(std::pair(luminance, colour), target.seen(luminance, colour)).first->second;
    };
    const int colour = least_strength([&](int c) { return seen(0, c).colour <= limit.colour; });
    const int luminance = least_strength([&](int l) { return seen(l, colour).lightness <= limit.lightness; });
    NoiseNeed out;
    out.luminance = luminance;
    out.colour = colour;
    out.without = seen(0, 0);
    out.with = seen(luminance, colour);
    out.reached = out.with.lightness <= limit.lightness && out.with.colour <= limit.colour;
    return out;
}

}  // namespace optrel
