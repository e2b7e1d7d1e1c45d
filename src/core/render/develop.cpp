#include "render/develop.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "render/colour.h"
#include "render/demosaic.h"
#include "render/noise_reduction.h"
#include "render/resample.h"

namespace optrel {
namespace {

constexpr float luma[] = {0.2126f, 0.7152f, 0.0722f};
constexpr float mid_grey = 0.18f;

double number(const ResolvedFrame& f, Field field) { return f[field].value.number; }

std::optional<FrameMap> map_for(const std::optional<AppliedProfile>& profile, const PictureGeometry& geometry, const ResolvedFrame& f) {
    if (!profile) return std::nullopt;
    const CorrectionStrength strength{number(f, Field::distortion_strength) / 100, number(f, Field::fringe_strength) / 100, number(f, Field::vignetting_strength) / 100};
    return FrameMap(profile->node, profile->reference, geometry, strength);
}

double border_scale(const ResolvedFrame& f, const std::optional<FrameMap>& map) {
    const std::string& border = f[Field::border].value.text;
    if (border == "scale") return number(f, Field::border_scale);
    if (border == "fill" && map) return fill_scale(*map);
    return 1;
}

/// A map that moves nothing, for a pure scale.
FrameMap straight_map(const PictureGeometry& geometry) {
    ProfileNode node;
    node.focal_mm = geometry.half_diagonal_mm();
    return FrameMap(node, geometry, geometry);
}

/// Colour matrix, exposure, contrast and saturation, in place.
void tone(Planes& planes, const cv::Matx33f& matrix, const ResolvedFrame& f) {
    const cv::Matx33f m = matrix * static_cast<float>(std::exp2(number(f, Field::exposure)));
    const float slope = static_cast<float>(std::exp2(number(f, Field::contrast) / 100));
    const float saturation = static_cast<float>(1 + number(f, Field::saturation) / 100);
    // The tone curve y = grey (x / grey)^slope, tabulated over the square root of x up to 4.
    constexpr int entries = 4096;
    std::vector<float> curve;
    if (slope != 1)
        for (int i = 0; i <= entries + 1; ++i) {
            const float root = 2.f * i / entries;
            curve.push_back(mid_grey * std::pow(root * root / mid_grey, slope));
        }
    const float* table = curve.data();
    const auto toned = [table](float x) {
        const float at = std::sqrt(std::min(4.f, std::max(0.f, x))) * (entries / 2.f);
        const int i = static_cast<int>(at);
        return table[i] + (at - i) * (table[i + 1] - table[i]);
    };
    for_strips(planes.size().height, [&](int first, int end) {
        for (int row = first; row < end; ++row) {
            float *r = planes.channel[0].ptr<float>(row), *g = planes.channel[1].ptr<float>(row), *b = planes.channel[2].ptr<float>(row);
            for (int i = 0; i < planes.size().width; ++i) {
                const float x = m(0, 0) * r[i] + m(0, 1) * g[i] + m(0, 2) * b[i];
                const float y = m(1, 0) * r[i] + m(1, 1) * g[i] + m(1, 2) * b[i];
                const float z = m(2, 0) * r[i] + m(2, 1) * g[i] + m(2, 2) * b[i];
                r[i] = x;
                g[i] = y;
                b[i] = z;
            }
            if (!curve.empty())
                for (float* p : {r, g, b})
                    for (int i = 0; i < planes.size().width; ++i) p[i] = toned(p[i]);
            if (saturation != 1)
                for (int i = 0; i < planes.size().width; ++i) {
                    const float grey = luma[0] * r[i] + luma[1] * g[i] + luma[2] * b[i];
                    r[i] = grey + saturation * (r[i] - grey);
                    g[i] = grey + saturation * (g[i] - grey);
                    b[i] = grey + saturation * (b[i] - grey);
                }
        }
    });
}

void sharpen(Planes& planes, double amount_percent, double radius_px) {
    if (amount_percent <= 0) return;
    cv::Mat1f grey(planes.size()), blurred(planes.size());
    for_strips(grey.rows, [&](int first, int end) {
        for (int row = first; row < end; ++row) {
            const float *r = planes.channel[0].ptr<float>(row), *g = planes.channel[1].ptr<float>(row), *b = planes.channel[2].ptr<float>(row);
            float* to = grey.ptr<float>(row);
            // Beyond white nothing is visible, so nothing there may cast a halo.
            for (int i = 0; i < grey.cols; ++i) to[i] = std::clamp(luma[0] * r[i] + luma[1] * g[i] + luma[2] * b[i], 0.f, 1.f);
        }
    });
    const float amount = static_cast<float>(amount_percent / 100);
    for_strips(grey.rows, [&](int first, int end) {
        cv::Mat to = blurred.rowRange(first, end);
        cv::GaussianBlur(grey.rowRange(first, end), to, {0, 0}, radius_px, radius_px, cv::BORDER_REFLECT_101);
    });
    for_strips(grey.rows, [&](int first, int end) {
        for (int row = first; row < end; ++row) {
            const float *sharp = grey.ptr<float>(row), *soft = blurred.ptr<float>(row);
            for (cv::Mat1f& plane : planes.channel) {
                float* p = plane.ptr<float>(row);
                for (int i = 0; i < grey.cols; ++i) p[i] += amount * (sharp[i] - soft[i]);
            }
        }
    });
}

cv::Mat3w encode(const Planes& planes) {
    cv::Mat3w out(planes.size());
    static const SrgbEncoder encoder;
    for_strips(out.rows, [&](int first, int end) {
        for (int row = first; row < end; ++row) {
            const float *r = planes.channel[0].ptr<float>(row), *g = planes.channel[1].ptr<float>(row), *b = planes.channel[2].ptr<float>(row);
            cv::Vec3w* to = out.ptr<cv::Vec3w>(row);
            for (int i = 0; i < out.cols; ++i) to[i] = {encoder(r[i]), encoder(g[i]), encoder(b[i])};
        }
    });
    return out;
}

Developed finish(Planes planes, const PictureGeometry& geometry, const cv::Matx33f& matrix, const ResolvedFrame& f, const std::optional<FrameMap>& map,
                 const Progress& progress) {
    Developed out;
    out.scale = border_scale(f, map);
    out.corrected = map.has_value();
    if (map || out.scale != 1) planes = resample(planes, map ? *map : straight_map(geometry), out.scale, progress);
    progress.check();
    tone(planes, matrix, f);
    progress.check();
    sharpen(planes, number(f, Field::sharpening_amount), number(f, Field::sharpening_radius));
    progress.check();
    out.rgb = encode(planes);
    return out;
}

}  // namespace

Developed develop(const RawPicture& raw, double pitch_um, const ResolvedFrame& f, const std::optional<AppliedProfile>& profile, const Progress& progress) {
    const PictureGeometry geometry{raw.counts.cols, raw.counts.rows, pitch_um};
    const std::optional<FrameMap> map = map_for(profile, geometry, f);
    const bool fixed = f[Field::white_balance].value.text == "fixed";
    const std::array<double, 3> neutral = fixed ? neutral_of(raw, number(f, Field::temperature), number(f, Field::tint)) : raw.as_shot_neutral;
    const cv::Mat1f mosaic = linear_mosaic(raw, white_balance_multipliers(neutral), map ? &*map : nullptr);
    progress.check();
    Planes planes = demosaic(mosaic, raw.filter);
    progress.check();
    reduce_noise(planes, number(f, Field::luminance_noise), number(f, Field::colour_noise), progress);
    return finish(std::move(planes), geometry, camera_to_srgb(raw), f, map, progress);
}

Developed develop_rendered(const cv::Mat3f& linear, double pitch_um, const ResolvedFrame& f, const std::optional<AppliedProfile>& profile, const Progress& progress) {
    const PictureGeometry geometry{linear.cols, linear.rows, pitch_um};
    const std::optional<FrameMap> map = map_for(profile, geometry, f);
    Planes planes;
    for (int c = 0; c < 3; ++c) cv::extractChannel(linear, planes.channel[c], c);
    if (map && map->has_falloff()) {
        const GainTable gains(*map);
        for (int c = 0; c < 3; ++c)
            for_strips(linear.rows, [&](int first, int end) {
                for (int row = first; row < end; ++row) {
                    float* p = planes.channel[c].ptr<float>(row);
                    for (int i = 0; i < linear.cols; ++i) p[i] *= gains.at(c, i + 0.5f, row + 0.5f);
                }
            });
    }
    progress.check();
    reduce_noise(planes, number(f, Field::luminance_noise), number(f, Field::colour_noise), progress);
    return finish(std::move(planes), geometry, cv::Matx33f::eye(), f, map, progress);
}

}  // namespace optrel
