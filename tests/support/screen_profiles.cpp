// SPDX-License-Identifier: GPL-3.0-or-later
#include "support/screen_profiles.h"

#include <lcms2.h>

#include <algorithm>
#include <cmath>
#include <memory>

#include "frames/colour_space.h"
#include "patches/colorimetry.h"

namespace optrel::test {
namespace {

using Handle = std::unique_ptr<void, decltype(&cmsCloseProfile)>;
using Link = std::unique_ptr<void, decltype(&cmsDeleteTransform)>;

Handle handle_of(const std::string& bytes) {
    return {cmsOpenProfileFromMem(bytes.data(), static_cast<cmsUInt32Number>(bytes.size())), cmsCloseProfile};
}

std::string bytes_of(cmsHPROFILE profile, const char* name) {
    cmsMLU* text = cmsMLUalloc(nullptr, 1);
    cmsMLUsetASCII(text, "en", "GB", name);
    cmsWriteTag(profile, cmsSigProfileDescriptionTag, text);
    cmsMLUfree(text);
    cmsUInt32Number size = 0;
    cmsSaveProfileToMem(profile, nullptr, &size);
    std::string bytes(size, '\0');
    cmsSaveProfileToMem(profile, bytes.data(), &size);
    return bytes;
}

/// Runs a transform for one entry of a table.
cmsInt32Number sample(const cmsUInt16Number in[], cmsUInt16Number out[], void* link) {
    cmsDoTransform(link, in, out, 1);
    return 1;
}

void write_table(cmsHPROFILE profile, cmsTagSignature tag, cmsHTRANSFORM link) {
    cmsPipeline* pipeline = cmsPipelineAlloc(nullptr, 3, 3);
    cmsStage* table = cmsStageAllocCLut16bit(nullptr, 33, 3, 3, nullptr);
    cmsStageSampleCLut16bit(table, sample, link, 0);
    // A table of version 4 stands between curves.
    cmsPipelineInsertStage(pipeline, cmsAT_BEGIN, cmsStageAllocToneCurves(nullptr, 3, nullptr));
    cmsPipelineInsertStage(pipeline, cmsAT_END, table);
    cmsPipelineInsertStage(pipeline, cmsAT_END, cmsStageAllocToneCurves(nullptr, 3, nullptr));
    cmsWriteTag(profile, tag, pipeline);
    cmsPipelineFree(pipeline);
}

}  // namespace

std::string odd_gamma_screen() {
    const cmsCIExyY white{0.3127, 0.3290, 1};
    const cmsCIExyYTRIPLE primaries{{0.69, 0.305, 1}, {0.21, 0.72, 1}, {0.148, 0.052, 1}};
    cmsToneCurve* curves[] = {cmsBuildGamma(nullptr, 1.8), cmsBuildGamma(nullptr, 2.6), cmsBuildGamma(nullptr, 2.2)};
    const Handle profile(cmsCreateRGBProfile(&white, &primaries, curves), cmsCloseProfile);
    cmsFreeToneCurveTriple(curves);
    return bytes_of(profile.get(), "Odd gamma");
}

std::string table_screen() {
    const Handle like = handle_of(icc_profile(ColourSpace::p3)), lab(cmsCreateLab4Profile(nullptr), cmsCloseProfile);
    const Link to_lab(cmsCreateTransform(like.get(), TYPE_RGB_16, lab.get(), TYPE_Lab_16, INTENT_RELATIVE_COLORIMETRIC,
                                         cmsFLAGS_NOCACHE),
                      cmsDeleteTransform),
        from_lab(cmsCreateTransform(lab.get(), TYPE_Lab_16, like.get(), TYPE_RGB_16, INTENT_RELATIVE_COLORIMETRIC,
                                    cmsFLAGS_NOCACHE),
                 cmsDeleteTransform);
    const Handle profile(cmsCreateProfilePlaceholder(nullptr), cmsCloseProfile);
    cmsSetProfileVersion(profile.get(), 4.3);
    cmsSetDeviceClass(profile.get(), cmsSigDisplayClass);
    cmsSetColorSpace(profile.get(), cmsSigRgbData);
    cmsSetPCS(profile.get(), cmsSigLabData);
    const cmsCIEXYZ white{0.9642, 1, 0.8249};
    cmsWriteTag(profile.get(), cmsSigMediaWhitePointTag, &white);
    write_table(profile.get(), cmsSigAToB0Tag, to_lab.get());
    write_table(profile.get(), cmsSigBToA0Tag, from_lab.get());
    return bytes_of(profile.get(), "Table");
}

std::vector<cv::Vec3w> by_little_cms(const std::vector<cv::Vec3f>& linear, const ScreenSettings& screen) {
    const Handle from = handle_of(icc_profile(ColourSpace::linear)), to = handle_of(screen.profile);
    static constexpr cmsUInt32Number intents[] = {INTENT_PERCEPTUAL, INTENT_RELATIVE_COLORIMETRIC, INTENT_SATURATION,
                                                  INTENT_ABSOLUTE_COLORIMETRIC};
    const Link link(
        cmsCreateTransform(from.get(), TYPE_RGB_FLT, to.get(), TYPE_RGB_FLT, intents[static_cast<int>(screen.intent)],
                           cmsFLAGS_NOCACHE | cmsFLAGS_NOOPTIMIZE |
                               (screen.black_point_compensation ? cmsFLAGS_BLACKPOINTCOMPENSATION : 0)),
        cmsDeleteTransform);
    std::vector<cv::Vec3f> values(linear.size());
    cmsDoTransform(link.get(), linear.data(), values.data(), static_cast<cmsUInt32Number>(linear.size()));
    std::vector<cv::Vec3w> out(linear.size());
    for (std::size_t i = 0; i < out.size(); ++i)
        for (int c = 0; c < 3; ++c)
            out[i][c] = static_cast<std::uint16_t>(std::lround(65535 * std::clamp(values[i][c], 0.f, 1.f)));
    return out;
}

std::vector<double> differences_on(const std::string& screen, const std::vector<cv::Vec3w>& a,
                                   const std::vector<cv::Vec3w>& b) {
    const Handle from = handle_of(screen), lab(cmsCreateLab4Profile(nullptr), cmsCloseProfile);
    const Link link(cmsCreateTransform(from.get(), TYPE_RGB_16, lab.get(), TYPE_Lab_DBL, INTENT_RELATIVE_COLORIMETRIC,
                                       cmsFLAGS_NOCACHE | cmsFLAGS_NOOPTIMIZE),
                    cmsDeleteTransform);
    std::vector<cv::Vec3d> one(a.size()), other(b.size());
    cmsDoTransform(link.get(), a.data(), one.data(), static_cast<cmsUInt32Number>(a.size()));
    cmsDoTransform(link.get(), b.data(), other.data(), static_cast<cmsUInt32Number>(b.size()));
    std::vector<double> out;
    for (std::size_t i = 0; i < a.size(); ++i) out.push_back(de2000(one[i], other[i]));
    return out;
}

}  // namespace optrel::test
