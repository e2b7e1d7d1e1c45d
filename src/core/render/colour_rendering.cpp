// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/colour_rendering.h"

#include <fmt/format.h>

#include <algorithm>
#include <mutex>

#include "base/error.h"
#include "base/words.h"
#include "frames/colour_space.h"
#include "render/chroma_lookup.h"
#include "render/field_values.h"
#include "render/strips.h"

namespace optrel {
namespace {

/// Balanced camera values to XYZ of D50 (DNG specification 1.6, "Camera to XYZ (D50) Transform").
cv::Matx33d to_xyz_d50(const DngColours& c, const CameraMatrices& matrices, const std::array<double, 3>& neutral,
                       const BodyCalibration& body, double kelvin) {
    const cv::Vec3d camera(neutral[0], neutral[1], neutral[2]);
    const double w = matrices.share(kelvin);
    if (c.lights.front().to_xyz_d50) {
        const cv::Matx33d forward = c.lights.size() == 1
                                        ? *c.lights[0].to_xyz_d50
                                        : *c.lights[0].to_xyz_d50 * (1 - w) + *c.lights[1].to_xyz_d50 * w;
        cv::Matx33d to_body = cv::Matx33d::diag(body.balance);
        if (c.signature == body.signature) {
            const int first = c.swapped ? 1 : 0;
            to_body = to_body * (c.lights.size() == 1 ? body.by_light[0]
                                                      : body.by_light[first] * (1 - w) + body.by_light[1 - first] * w);
        }
        const cv::Matx33d to_reference = to_body.inv();
        const cv::Vec3d reference = to_reference * camera;
        const cv::Vec3d balanced(1 / reference[0], 1 / reference[1], 1 / reference[2]);
        return forward * cv::Matx33d::diag(balanced) * to_reference * cv::Matx33d::diag(camera);
    }
    return camera_to_xyz_d50(matrices, neutral);
}

/// Samples from which on making a table is worth its time.
constexpr int least_for_lookup = 100000;

cv::Matx33f romm_to_srgb() {
    static const cv::Matx33f matrix = srgb_to(ColourSpace::romm).inv();
    return matrix;
}

template <class Function>
void each_colour(Planes& planes, const Function& f) {
    for_strips(planes.size().height, [&](int first, int end) {
        for (int row = first; row < end; ++row) {
            float *r = planes.channel[0].ptr<float>(row), *g = planes.channel[1].ptr<float>(row),
                  *b = planes.channel[2].ptr<float>(row);
            for (int i = 0; i < planes.size().width; ++i) {
                const cv::Vec3f out = f(cv::Vec3f(r[i], g[i], b[i]));
                r[i] = out[0];
                g[i] = out[1];
                b[i] = out[2];
            }
        }
    });
}

void apply_icc(const IccColours& icc, Planes& planes, const cv::Matx33f& after) {
    for_strips(planes.size().height, [&](int first, int end) {
        std::vector<cv::Vec3f> line(static_cast<std::size_t>(planes.size().width));
        for (int row = first; row < end; ++row) {
            float* plane[3];
            for (int c = 0; c < 3; ++c) plane[c] = planes.channel[c].ptr<float>(row);
            for (std::size_t i = 0; i < line.size(); ++i) line[i] = {plane[0][i], plane[1][i], plane[2][i]};
            icc.apply(line.front().val, static_cast<int>(line.size()));
            for (std::size_t i = 0; i < line.size(); ++i) {
                const cv::Vec3f out = after * line[i];
                for (int c = 0; c < 3; ++c) plane[c][i] = out[c];
            }
        }
    });
}

/// True when a profile for one camera only is for this camera, in any spelling of its maker.
bool is_for(const ColourProfile& profile, const RawPicture& raw) {
    if (profile.camera.empty()) return true;
    std::vector<std::string> names = raw.camera_names;
    if (raw.carried) names.push_back(raw.carried->camera);
    if (names.empty()) return true;  // the frame does not name its camera
    return std::any_of(names.begin(), names.end(),
                       [&](const std::string& name) { return lowered(name) == lowered(profile.camera); });
}

}  // namespace

std::shared_ptr<const ColourProfile> colour_profile_for(const RawPicture& raw, const ResolvedFrame& f) {
    const std::string& wanted = f[Field::colour_source].value.text;
    if (wanted == info(Field::colour_source).neutral.text) return nullptr;
    if (wanted == carried_colours_word) {
        if (!raw.carried || raw.carried->profiles.empty()) return nullptr;
        return {raw.carried, &raw.carried->profiles.front()};
    }
    if (!f.colour_file)
        throw input_error(fmt::format(
            "The colour file '{}' is not in this studio; take it in again, or choose another.", printable(wanted)));
    if (!is_for(*f.colour_file, raw))
        throw input_error(fmt::format(
            "The colour file '{}' is for the camera {}, but the frame is of {}; choose one of its own camera.",
            f.colour_file->name, f.colour_file->camera,
            raw.camera_names.empty() ? "another" : raw.camera_names.front()));
    return f.colour_file;
}

CameraMatrices matrices_for(const RawPicture& raw, const ResolvedFrame& f) {
    const auto profile = colour_profile_for(raw, f);
    if (!profile || profile->is_icc()) return own_matrices(raw);
    return {*profile->dng, raw.carried ? raw.carried->calibration : BodyCalibration()};
}

struct ColourRendering::Chroma {
    std::once_flag made;
    std::optional<ChromaLookup> lookup;
};

ColourRendering::ColourRendering(const ColourProfile& profile, const RawPicture& raw,
                                 const std::array<double, 3>& neutral, bool look, bool curve) {
    if (profile.is_icc()) {
        icc_.emplace(profile.bytes);
        // A matrix needs no conversion by the library, which takes several times as long as all the rest.
        if (icc_->linear()) {
            to_romm_ = *icc_->linear();
            icc_.reset();
        }
        return;
    }
    const DngColours& c = *profile.dng;
    const BodyCalibration body = raw.carried ? raw.carried->calibration : BodyCalibration();
    const CameraMatrices matrices(c, body);
    kelvin_ = correlated_temperature(white_of(matrices, neutral));
    to_romm_ = xyz_d50_to_romm() * to_xyz_d50(c, matrices, neutral, body, kelvin_);
    if (c.lights.front().hue_table)
        hue_table_ = c.lights.size() == 1
                         ? *c.lights[0].hue_table
                         : between(*c.lights[0].hue_table, *c.lights[1].hue_table, matrices.share(kelvin_));
    if (hue_table_ && hue_table_->values < 2) chroma_ = std::make_shared<Chroma>();
    if (look) look_ = c.look;
    if (curve) exposure_offset_ = c.exposure_offset;
    if (curve && c.curve.size() > 1) curve_.emplace(c.curve);
}

void ColourRendering::begin(Planes& planes, float gain) const {
    const cv::Matx33f after = romm_to_srgb() * gain;
    if (icc_) return apply_icc(*icc_, planes, after);
    if (!hue_table_) {
        const cv::Matx33f whole = after * to_romm_;
        return each_colour(planes, [&](const cv::Vec3f& c) { return whole * c; });
    }
    if (chroma_ && planes.size().area() >= least_for_lookup) {
        std::call_once(chroma_->made, [&] {
            chroma_->lookup.emplace([&](const cv::Vec3f& c) { return romm_to_srgb() * look_up(*hue_table_, c); });
        });
        const ChromaLookup& lookup = *chroma_->lookup;
        const cv::Matx33f before = to_romm_ * gain;
        for_strips(planes.size().height, [&](int first, int end) {
            for (int row = first; row < end; ++row)
                lookup.apply(before, planes.channel[0].ptr<float>(row), planes.channel[1].ptr<float>(row),
                             planes.channel[2].ptr<float>(row), planes.size().width);
        });
        return;
    }
    each_colour(planes, [&](const cv::Vec3f& c) { return after * look_up(*hue_table_, to_romm_ * c); });
}

void ColourRendering::finish(Planes& planes) const {
    if (!look_ && !curve_) return;
    const cv::Matx33f before = srgb_to(ColourSpace::romm), after = romm_to_srgb();
    each_colour(planes, [&](const cv::Vec3f& c) {
        cv::Vec3f v = before * c;
        if (look_) v = look_up(*look_, v);
        if (curve_) v = (*curve_)(v);
        return after * v;
    });
}

std::shared_ptr<const ColourRendering> colour_rendering(const RawPicture& raw, const ResolvedFrame& f) {
    if (!raw.has_colours()) return nullptr;
    const auto profile = colour_profile_for(raw, f);
    if (!profile) return nullptr;
    return std::make_shared<const ColourRendering>(*profile, raw, wanted_neutral(raw, f), is_on(f, Field::colour_look),
                                                   is_on(f, Field::colour_curve));
}

std::array<double, 3> wanted_neutral(const RawPicture& raw, const ResolvedFrame& f) {
    if (!raw.has_colours()) return {1, 1, 1};
    const std::string& balance = f[Field::white_balance].value.text;
    if (balance != "fixed" && balance != "offset") return raw.as_shot_neutral;
    const CameraMatrices matrices = matrices_for(raw, f);
    if (balance == "fixed") return neutral_of(matrices, number_of(f, Field::temperature), number_of(f, Field::tint));
    const Illuminant light = illuminant_of(matrices, raw.as_shot_neutral);
    const double reciprocal =
        std::clamp(1e6 / light.kelvin + number_of(f, Field::warmth_offset), 1e6 / 15000, 1e6 / 1000);
    return neutral_of(matrices, 1e6 / reciprocal, light.tint + number_of(f, Field::tint_offset));
}

std::array<double, 3> multipliers_for(const RawPicture& raw, const ResolvedFrame& f) {
    return white_balance_multipliers(wanted_neutral(raw, f));
}

}  // namespace optrel
