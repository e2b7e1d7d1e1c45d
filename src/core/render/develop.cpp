// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/develop.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "render/colour.h"
#include "render/demosaic.h"
#include "render/fringe_suppression.h"
#include "render/hot_pixels.h"
#include "render/noise_reduction.h"
#include "render/resample.h"
#include "render/sharpen.h"
#include "render/tone.h"

namespace optrel {
namespace {

double number(const ResolvedFrame& f, Field field) { return f[field].value.number; }

std::optional<FrameMap> map_for(const std::optional<AppliedProfile>& profile, const PictureGeometry& geometry,
                                const ResolvedFrame& f) {
    if (!profile) return std::nullopt;
    const CorrectionStrength strength{number(f, Field::distortion_strength) / 100,
                                      number(f, Field::fringe_strength) / 100,
                                      number(f, Field::vignetting_strength) / 100};
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

cv::Mat3w encode(const Planes& planes) {
    cv::Mat3w out(planes.size());
    static const SrgbEncoder encoder;
    for_strips(out.rows, [&](int first, int end) {
        for (int row = first; row < end; ++row) {
            const float *r = planes.channel[0].ptr<float>(row), *g = planes.channel[1].ptr<float>(row),
                        *b = planes.channel[2].ptr<float>(row);
            cv::Vec3w* to = out.ptr<cv::Vec3w>(row);
            for (int i = 0; i < out.cols; ++i) to[i] = {encoder(r[i]), encoder(g[i]), encoder(b[i])};
        }
    });
    return out;
}

/// The camera values that are to become grey.
std::array<double, 3> wanted_neutral(const RawPicture& raw, const ResolvedFrame& f) {
    const std::string& balance = f[Field::white_balance].value.text;
    if (balance == "fixed") return neutral_of(raw, number(f, Field::temperature), number(f, Field::tint));
    if (balance != "offset") return raw.as_shot_neutral;
    const Illuminant light = illuminant_of(raw, raw.as_shot_neutral);
    const double reciprocal = std::clamp(1e6 / light.kelvin + number(f, Field::warmth_offset), 1e6 / 15000, 1e6 / 1000);
    return neutral_of(raw, 1e6 / reciprocal, light.tint + number(f, Field::tint_offset));
}

void treat_noise(Planes& planes, const ResolvedFrame& f, const Progress& progress) {
    if (f[Field::noise_elsewhere].value.text == "on") return;
    reduce_noise(planes, number(f, Field::luminance_noise), number(f, Field::colour_noise), progress);
}

Developed finish(Planes planes, const PictureGeometry& geometry, const cv::Matx33f& matrix,
                 const EmbeddedRendering& embedded, const ResolvedFrame& f, const std::optional<FrameMap>& map,
                 Fringes fringes, const Progress& progress) {
    Developed out;
    out.scale = border_scale(f, map);
    out.corrected = map.has_value();
    if (map || out.scale != 1)
        planes = resample(planes, map ? *map : straight_map(geometry), out.scale, fringes, progress);
    progress.check();
    suppress_fringes(planes, number(f, Field::fringe_suppression));
    tone(planes, matrix, tone_settings(f, embedded));
    progress.check();
    sharpen(planes, number(f, Field::sharpening_amount), number(f, Field::sharpening_radius),
            number(f, Field::sharpening_threshold));
    progress.check();
    out.rgb = encode(planes);
    return out;
}

}  // namespace

Developed develop(const RawPicture& raw, double pitch_um, const ResolvedFrame& f,
                  const std::optional<AppliedProfile>& profile, const Progress& progress) {
    const PictureGeometry geometry{raw.counts.cols, raw.counts.rows, pitch_um};
    const std::optional<FrameMap> map = map_for(profile, geometry, f);
    const cv::Mat1w repaired = f[Field::hot_pixel_repair].value.text == "on" ? without_hot_pixels(raw) : raw.counts;
    const cv::Mat1f mosaic =
        linear_mosaic(raw, repaired, white_balance_multipliers(wanted_neutral(raw, f)), map ? &*map : nullptr);
    progress.check();
    Planes planes = demosaic(mosaic, raw.filter, map ? &*map : nullptr);
    progress.check();
    treat_noise(planes, f, progress);
    return finish(std::move(planes), geometry, camera_to_srgb(raw), raw.rendering, f, map, Fringes::aligned, progress);
}

Developed develop_rendered(const cv::Mat3f& linear, double pitch_um, const ResolvedFrame& f,
                           const std::optional<AppliedProfile>& profile, const Progress& progress) {
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
    treat_noise(planes, f, progress);
    return finish(std::move(planes), geometry, cv::Matx33f::eye(), {}, f, map, Fringes::as_recorded, progress);
}

}  // namespace optrel
