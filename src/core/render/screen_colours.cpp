// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/screen_colours.h"

#include <array>
#include <cmath>
#include <utility>
#include <vector>

#include "base/error.h"
#include "frames/colour_space.h"
#include "frames/icc_handle.h"
#include "render/colour.h"
#include "render/stages.h"
#include "render/strips.h"

namespace optrel {
namespace {

using IccTransform = std::unique_ptr<void, decltype(&cmsDeleteTransform)>;

IccHandle screen_profile(const std::string& bytes) {
    IccHandle profile = icc_handle(bytes);
    if (!profile) throw input_error("The screen's colour profile is damaged: it cannot be read; choose another file.");
    const cmsProfileClassSignature kind = cmsGetDeviceClass(profile.get());
    if (cmsGetColorSpace(profile.get()) != cmsSigRgbData ||
        (kind != cmsSigDisplayClass && kind != cmsSigColorSpaceClass))
        throw input_error(
            "The colour profile is not one of a screen (class 'display', three colours); choose the profile that was "
            "made for this screen.");
    return profile;
}

cmsUInt32Number intent_of(Intent intent) {
    switch (intent) {
        case Intent::perceptual: return INTENT_PERCEPTUAL;
        case Intent::saturation: return INTENT_SATURATION;
        case Intent::absolute_colorimetric: return INTENT_ABSOLUTE_COLORIMETRIC;
        default: return INTENT_RELATIVE_COLORIMETRIC;
    }
}

IccTransform transform(cmsHPROFILE from, cmsUInt32Number from_type, cmsHPROFILE to, cmsUInt32Number to_type,
                       const ScreenSettings& settings) {
    const cmsUInt32Number flags = cmsFLAGS_NOCACHE | cmsFLAGS_HIGHRESPRECALC |
                                  (settings.black_point_compensation && settings.intent != Intent::absolute_colorimetric
                                       ? cmsFLAGS_BLACKPOINTCOMPENSATION
                                       : 0);
    IccTransform out(cmsCreateTransform(from, from_type, to, to_type, intent_of(settings.intent), flags),
                     cmsDeleteTransform);
    if (!out)
        throw input_error("The screen's colour profile has no way from colours to its values; choose another file.");
    return out;
}

/// Applies `handle` to rows of pixels on all cores.
template <class From, class To>
void by_rows(const IccTransform& handle, const cv::Mat_<From>& from, cv::Mat_<To>& to) {
    for_strips(from.rows, [&](int first, int end) {
        for (int row = first; row < end; ++row)
            cmsDoTransform(handle.get(), from.template ptr<From>(row), to.template ptr<To>(row),
                           static_cast<cmsUInt32Number>(from.cols));
    });
}

}  // namespace

std::string to_string(Intent intent) {
    static const char* names[] = {"perceptual", "relative colorimetric", "saturation", "absolute colorimetric"};
    return names[static_cast<int>(intent)];
}

struct ScreenColours::Curves {
    cv::Matx33f from_srgb;  ///< linear sRGB to the screen's own linear values
    std::array<std::vector<float>, 3> values;
};

struct ScreenColours::Tables {
    IccTransform from_romm{nullptr, cmsDeleteTransform};
};

ScreenColours::ScreenColours(const ScreenSettings& settings) : settings_(settings) {
    if (settings.profile.empty()) return;
    const IccHandle screen = screen_profile(settings.profile);
    name_ = icc_text(screen.get(), cmsInfoDescription);
    if (name_.empty()) name_ = "a profile without a name";
    const bool by_primaries = cmsIsMatrixShaper(screen.get()) && settings.intent != Intent::absolute_colorimetric &&
                              !cmsIsCLUT(screen.get(), intent_of(settings.intent), LCMS_USED_AS_OUTPUT);
    auto curves = std::make_unique<Curves>();
    const cmsTagSignature colours[] = {cmsSigRedColorantTag, cmsSigGreenColorantTag, cmsSigBlueColorantTag};
    const cmsTagSignature shapes[] = {cmsSigRedTRCTag, cmsSigGreenTRCTag, cmsSigBlueTRCTag};
    cv::Matx33d to_xyz;
    for (int c = 0; by_primaries && c < 3; ++c) {
        const auto* colour = static_cast<const cmsCIEXYZ*>(cmsReadTag(screen.get(), colours[c]));
        const auto* shape = static_cast<const cmsToneCurve*>(cmsReadTag(screen.get(), shapes[c]));
        if (!colour || !shape) break;
        for (int row = 0; row < 3; ++row) to_xyz(row, c) = (&colour->X)[row];
        const std::unique_ptr<cmsToneCurve, decltype(&cmsFreeToneCurve)> back(cmsReverseToneCurveEx(4096, shape),
                                                                              cmsFreeToneCurve);
        if (!back) break;
        curves->values[c].resize(LightEncoder::entries + 2);
        for (int i = 0; i < LightEncoder::entries + 2; ++i) {
            const float root = static_cast<float>(i) / LightEncoder::entries;
            curves->values[c][i] = 65535 * std::clamp(cmsEvalToneCurveFloat(back.get(), root * root), 0.f, 1.f);
        }
    }
    const bool whole = by_primaries && !curves->values[2].empty() && std::abs(cv::determinant(to_xyz)) > 1e-6;
    if (!whole) {
        const IccHandle romm = icc_handle(icc_profile(ColourSpace::romm));
        tables_ = std::make_unique<Tables>();
        tables_->from_romm = transform(romm.get(), TYPE_RGB_16, screen.get(), TYPE_RGB_16, settings);
        return;
    }
    const cv::Vec3d white(0.9642, 1, 0.8249);  // D50 of ICC.1
    // Profiles round their primaries; both whites are made exact again, so that grey stays grey. Primaries whose sum is
    // another white are taken as they are.
    const auto with_white = [&](const cv::Matx33d& m) {
        const cv::Vec3d amounts = m.inv() * white;
        const bool rounded = cv::norm(amounts - cv::Vec3d::all(1), cv::NORM_INF) < 0.002;
        return rounded ? m * cv::Matx33d::diag(amounts) : m;
    };
    curves->from_srgb = with_white(to_xyz).inv() * with_white(xyz_d50_to_romm().inv()) * srgb_to(ColourSpace::romm);
    curves_ = std::move(curves);
}

ScreenColours::~ScreenColours() = default;

const std::shared_ptr<const ScreenColours>& ScreenColours::srgb() {
    static const auto screen = std::make_shared<const ScreenColours>(ScreenSettings());
    return screen;
}

cv::Mat3w ScreenColours::encoded(const Planes& light) const {
    if (settings_.profile.empty()) return optrel::encoded(light);
    cv::Mat3w out(light.size());
    if (tables_) {
        by_rows(tables_->from_romm, optrel::encoded(light, ColourSpace::romm), out);
    } else {
        const EncodingTables tables{{curves_->values[0].data(), curves_->values[1].data(), curves_->values[2].data()},
                                    LightEncoder::entries};
        encode_with(light, curves_->from_srgb, &tables, out);
    }
    return out;
}

cv::Mat3w ScreenColours::encoded(const cv::Mat3w& srgb) const {
    if (settings_.profile.empty()) return srgb;
    const std::vector<float>& decoded = srgb_light();
    Planes light(srgb.size());
    for (int row = 0; row < srgb.rows; ++row)
        for (int i = 0; i < srgb.cols; ++i)
            for (int c = 0; c < 3; ++c) light.channel[c](row, i) = decoded[srgb(row, i)[c]];
    return encoded(light);
}

cv::Mat1b ScreenColours::outside(const Planes& light, const cv::Mat3w& values) const {
    const IccHandle romm = icc_handle(icc_profile(ColourSpace::romm));
    const IccHandle screen =
        screen_profile(settings_.profile.empty() ? icc_profile(ColourSpace::srgb) : settings_.profile);
    const IccHandle lab(cmsCreateLab4Profile(nullptr), cmsCloseProfile);
    const ScreenSettings plain{"", Intent::relative_colorimetric, false};
    const IccTransform wanted = transform(romm.get(), TYPE_RGB_16, lab.get(), TYPE_Lab_FLT, plain),
                       shown = transform(screen.get(), TYPE_RGB_16, lab.get(), TYPE_Lab_FLT, plain);
    cv::Mat3f should(light.size()), is(light.size());
    by_rows(wanted, optrel::encoded(light, ColourSpace::romm), should);
    by_rows(shown, values, is);
    cv::Mat1b out(light.size());
    for (int row = 0; row < out.rows; ++row)
        for (int i = 0; i < out.cols; ++i) {
            const cv::Vec3f d = should(row, i) - is(row, i);
            out(row, i) = std::hypot(d[1], d[2]) > outside_limit ? 255 : 0;
        }
    return out;
}

cv::Mat3b dithered(const cv::Mat3w& picture) {
    // The order of thresholds in a square of 8 x 8 by bits of x ^ y and y, the lowest first.
    static const std::array<std::array<int, 8>, 8> thresholds = [] {
        std::array<std::array<int, 8>, 8> all{};
        for (int y = 0; y < 8; ++y)
            for (int x = 0; x < 8; ++x) {
                int order = 0;
                for (int bit = 0; bit < 3; ++bit) order = 4 * order + 2 * (((x ^ y) >> bit) & 1) + ((y >> bit) & 1);
                // A step of 8 bits is 257 of 16.
                all[static_cast<std::size_t>(y)][static_cast<std::size_t>(x)] = (2 * order + 1) * 257 / 128;
            }
        return all;
    }();
    cv::Mat3b out(picture.size());
    for_strips(out.rows, [&](int first, int end) {
        for (int row = first; row < end; ++row) {
            const std::array<int, 8>& line = thresholds[static_cast<std::size_t>(row & 7)];
            const cv::Vec3w* from = picture.ptr<cv::Vec3w>(row);
            cv::Vec3b* to = out.ptr<cv::Vec3b>(row);
            for (int i = 0; i < out.cols; ++i)
                for (int c = 0; c < 3; ++c)
                    to[i][c] = static_cast<std::uint8_t>((from[i][c] + line[static_cast<std::size_t>(i & 7)]) / 257);
        }
    });
    return out;
}

}  // namespace optrel
