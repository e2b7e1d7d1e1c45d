// SPDX-License-Identifier: GPL-3.0-or-later
#include "patches/colour_writer.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstring>
#include <memory>

#include "base/error.h"
#include "frames/colour_profile.h"
#include "frames/icc_handle.h"
#include "frames/tiff_tags.h"
#include "patches/colorimetry.h"
#include "render/colour.h"
#include "render/hue_saturation.h"

namespace optrel {
namespace {

using Pipeline = std::unique_ptr<cmsPipeline, decltype(&cmsPipelineFree)>;
using Curve = std::unique_ptr<cmsToneCurve, decltype(&cmsFreeToneCurve)>;

constexpr int table_side = 33;
/// Grid points of the table lie evenly in this root of the light, as the eye sees it.
constexpr double table_gamma = 2.4;

void set_text(cmsHPROFILE profile, cmsTagSignature tag, const std::string& text) {
    cmsMLU* words = cmsMLUalloc(nullptr, 1);
    cmsMLUsetASCII(words, "en", "US", text.c_str());
    cmsWriteTag(profile, tag, words);
    cmsMLUfree(words);
}

cmsInt32Number sample_form(const cmsUInt16Number in[], cmsUInt16Number out[], void* cargo) {
    const ColourForm& form = *static_cast<const ColourForm*>(cargo);
    cv::Vec3d balanced;
    for (int c = 0; c < 3; ++c) balanced[c] = std::pow(in[c] / 65535.0, table_gamma);
    const cv::Vec3d xyz = form(balanced);
    const cv::Vec3d lab = lab_of({std::max(0.0, xyz[0]), std::max(0.0, xyz[1]), std::max(0.0, xyz[2])}, white_d50);
    const cmsCIELab encoded{lab[0], lab[1], lab[2]};
    cmsFloat2LabEncoded(out, &encoded);
    return 1;
}

void put_table(cmsHPROFILE profile, const ColourForm& form) {
    cmsSetPCS(profile, cmsSigLabData);
    const Pipeline pipeline(cmsPipelineAlloc(nullptr, 3, 3), cmsPipelineFree);
    const Curve root(cmsBuildGamma(nullptr, 1 / table_gamma), cmsFreeToneCurve);
    cmsToneCurve* curves[] = {root.get(), root.get(), root.get()};
    cmsPipelineInsertStage(pipeline.get(), cmsAT_END, cmsStageAllocToneCurves(nullptr, 3, curves));
    cmsStage* table = cmsStageAllocCLut16bit(nullptr, table_side, 3, 3, nullptr);
    ColourForm copy = form;
    cmsStageSampleCLut16bit(table, sample_form, &copy, 0);
    cmsPipelineInsertStage(pipeline.get(), cmsAT_END, table);
    // The form of the tag wants curves at the end as well.
    cmsPipelineInsertStage(pipeline.get(), cmsAT_END, cmsStageAllocToneCurves(nullptr, 3, nullptr));
    cmsWriteTag(profile, cmsSigAToB0Tag, pipeline.get());
}

void put_matrix(cmsHPROFILE profile, const cv::Matx33d& m) {
    cmsSetPCS(profile, cmsSigXYZData);
    const Curve straight(cmsBuildGamma(nullptr, 1), cmsFreeToneCurve);
    constexpr cmsTagSignature columns[] = {cmsSigRedColorantTag, cmsSigGreenColorantTag, cmsSigBlueColorantTag},
                              curves[] = {cmsSigRedTRCTag, cmsSigGreenTRCTag, cmsSigBlueTRCTag};
    for (int c = 0; c < 3; ++c) {
        const cmsCIEXYZ column{m(0, c), m(1, c), m(2, c)};
        cmsWriteTag(profile, columns[c], &column);
        cmsWriteTag(profile, curves[c], straight.get());
    }
}

void put(std::string& to, std::uint32_t v, int bytes) {
    for (int k = 0; k < bytes; ++k) to += static_cast<char>(v >> (8 * k) & 0xff);
}

enum DngType : std::uint16_t { ascii = 2, u16 = 3, u32 = 4, signed_rational = 10, real = 11 };

PlainTag text_tag(std::uint16_t tag, const std::string& value) {
    return {tag, ascii, static_cast<std::uint32_t>(value.size() + 1), value + '\0'};
}
PlainTag light_tag(std::uint16_t tag, int light) {
    PlainTag out{tag, u16, 1, {}};
    put(out.value, static_cast<std::uint32_t>(light), 2);
    return out;
}
PlainTag matrix_tag(std::uint16_t tag, const cv::Matx33d& m) {
    constexpr int whole = 1000000;
    PlainTag out{tag, signed_rational, 9, {}};
    for (const double v : m.val) {
        put(out.value, static_cast<std::uint32_t>(static_cast<std::int32_t>(std::lround(v * whole))), 4);
        put(out.value, whole, 4);
    }
    return out;
}

/// The standard light (Exif tag LightSource) whose temperature is nearest in reciprocal temperature.
int nearest_light(double kelvin) {
    constexpr std::pair<int, double> lights[] = {{17, 2856}, {23, 5003}, {20, 5503}, {21, 6504}, {22, 7504}};
    int best = 21;
    double least = 1e9;
    for (const auto& [number, k] : lights)
        if (const double away = std::abs(1 / k - 1 / kelvin); away < least) {
            least = away;
            best = number;
        }
    return best;
}

constexpr int hues = 72, saturations = 24;

/// What the form does beyond its matrix, as shifts of hue and factors of saturation and value. The form is the same at
/// every brightness, so one value suffices.
PlainTag hue_table(std::uint16_t tag, const ColourForm& form) {
    const cv::Matx33d to_romm = xyz_d50_to_romm(), from_matrix = form.matrix().inv() * to_romm.inv();
    PlainTag out{tag, real, 3 * hues * saturations, {}};
    for (int h = 0; h < hues; ++h)
        for (int s = 0; s < saturations; ++s) {
            const double saturation = static_cast<double>(s) / (saturations - 1), hue = 360.0 * h / hues;
            const cv::Vec3d after = to_romm * form(from_matrix * rgb_of(hue / 60, saturation, 1.0));
            const cv::Vec3d hsv =
                hsv_of(cv::Vec3d(std::max(0.0, after[0]), std::max(0.0, after[1]), std::max(0.0, after[2])));
            double shift = s == 0 ? 0 : 60 * hsv[0] - hue;
            if (shift > 180) shift -= 360;
            if (shift < -180) shift += 360;
            const double by = s == 0 ? 1 : std::clamp(hsv[1] / saturation, 0.2, 3.0);
            for (const double v : {shift, by, s == 0 ? 1 : std::clamp(hsv[2], 0.2, 3.0)}) {
                const float value = static_cast<float>(v);
                std::uint32_t bits = 0;
                std::memcpy(&bits, &value, 4);
                put(out.value, bits, 4);
            }
        }
    return out;
}

}  // namespace

cv::Matx33d colour_matrix(const FittedLight& light) {
    const cv::Vec3d white(light.white[0] / light.white[1], 1, (1 - light.white[0] - light.white[1]) / light.white[1]);
    const std::array<double, 3> n = light.fit.balance();
    return cv::Matx33d::diag({n[0], n[1], n[2]}) * light.fit.form.matrix().inv() * white_to_d50(white);
}

std::string icc_of(const FittedLight& light, const ColourFileText& text) {
    const IccHandle profile(cmsCreateProfilePlaceholder(nullptr), cmsCloseProfile);
    cmsSetProfileVersion(profile.get(), 4.3);
    cmsSetDeviceClass(profile.get(), cmsSigInputClass);
    cmsSetColorSpace(profile.get(), cmsSigRgbData);
    cmsSetHeaderRenderingIntent(profile.get(), INTENT_RELATIVE_COLORIMETRIC);
    cmsWriteTag(profile.get(), cmsSigMediaWhitePointTag, cmsD50_XYZ());
    set_text(profile.get(), cmsSigProfileDescriptionTag, text.name);
    set_text(profile.get(), cmsSigCopyrightTag, text.copyright.empty() ? "No copyright, use freely" : text.copyright);
    if (light.fit.form.is_matrix())
        put_matrix(profile.get(), light.fit.form.matrix());
    else
        put_table(profile.get(), light.fit.form);
    cmsUInt32Number size = 0;
    cmsSaveProfileToMem(profile.get(), nullptr, &size);
    std::string out(size, '\0');
    if (size == 0 || !cmsSaveProfileToMem(profile.get(), out.data(), &size))
        throw input_error(
            "The colours cannot be written as an ICC profile; write a colour profile of the DNG "
            "specification (.dcp) instead.");
    return out;
}

std::string dng_profile_of(const std::vector<FittedLight>& lights, const ColourFileText& text) {
    std::vector<PlainTag> tags{text_tag(tag::profile_name, text.name)};
    if (!text.camera.empty()) tags.push_back(text_tag(tag::unique_camera_model, text.camera));
    if (!text.copyright.empty()) tags.push_back(text_tag(tag::profile_copyright, text.copyright));
    if (lights.size() > 1 && nearest_light(lights[0].kelvin) == nearest_light(lights[1].kelvin))
        throw input_error(
            fmt::format("The two lights, {:.0f} and {:.0f} K, are too close to one another for one colour "
                        "file; give frames of one of them.",
                        lights[0].kelvin, lights[1].kelvin));
    const bool tables =
        std::any_of(lights.begin(), lights.end(), [](const FittedLight& l) { return !l.fit.form.is_matrix(); });
    if (tables) {
        PlainTag dims{tag::profile_hue_sat_map_dims, u32, 3, {}};
        for (const std::uint32_t n : {hues, saturations, 1}) put(dims.value, n, 4);
        tags.push_back(dims);
    }
    for (std::size_t i = 0; i < lights.size(); ++i) {
        const bool first = i == 0;
        const FittedLight& l = lights[i];
        tags.push_back(
            light_tag(first ? tag::calibration_illuminant_1 : tag::calibration_illuminant_2, nearest_light(l.kelvin)));
        tags.push_back(matrix_tag(first ? tag::color_matrix_1 : tag::color_matrix_2, colour_matrix(l)));
        tags.push_back(matrix_tag(first ? tag::forward_matrix_1 : tag::forward_matrix_2, l.fit.form.matrix()));
        if (tables)
            tags.push_back(
                hue_table(first ? tag::profile_hue_sat_map_data_1 : tag::profile_hue_sat_map_data_2, l.fit.form));
    }
    std::sort(tags.begin(), tags.end(), [](const PlainTag& a, const PlainTag& b) { return a.tag < b.tag; });
    return colour_file_of(tags);
}

}  // namespace optrel
