// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/icc_colours.h"

#include <fmt/format.h>

#include <array>
#include <cmath>

#include "base/error.h"
#include "base/words.h"
#include "frames/colour_space.h"
#include "frames/icc_handle.h"
#include "frames/icc_tags.h"

namespace optrel {
namespace {

/// Linear RGB with the primaries of ROMM RGB: the colour space of hue tables.
IccHandle linear_romm() {
    const cmsCIExyY white{0.3457, 0.3585, 1};
    const cmsCIExyYTRIPLE primaries{{0.7347, 0.2653, 1}, {0.1596, 0.8404, 1}, {0.0366, 0.0001, 1}};
    cmsToneCurve* straight = cmsBuildGamma(nullptr, 1);
    cmsToneCurve* curves[] = {straight, straight, straight};
    IccHandle out(cmsCreateRGBProfile(&white, &primaries, curves), cmsCloseProfile);
    cmsFreeToneCurve(straight);
    return out;
}

}  // namespace

IccHandle icc_handle(const std::string& bytes) {
    if (!icc_tags_fit(bytes)) return {nullptr, cmsCloseProfile};
    return {cmsOpenProfileFromMem(bytes.data(), static_cast<cmsUInt32Number>(bytes.size())), cmsCloseProfile};
}

std::string icc_text(cmsHPROFILE profile, cmsInfoType which) {
    std::array<char, 256> text{};
    cmsGetProfileInfoASCII(profile, which, "en", "US", text.data(), text.size() - 1);
    return printable(trimmed(std::string(text.data())).substr(0, 120));
}

bool is_icc_profile(const std::string& bytes) { return bytes.size() >= 128 && bytes.compare(36, 4, "acsp") == 0; }

IccDescription describe_icc(const std::string& bytes, const std::string& what) {
    const IccHandle profile = icc_handle(bytes);
    if (!profile)
        throw input_error(what + " is a damaged ICC profile: its parts do not lie where it says; get it anew.");
    if (cmsGetDeviceClass(profile.get()) != cmsSigInputClass || cmsGetColorSpace(profile.get()) != cmsSigRgbData)
        throw input_error(
            what + " is an ICC profile, but not one of a camera (class 'input', three colours); choose such a file.");
    const IccColours tried(bytes);  // throws when it is unusable
    IccDescription out;
    out.name = icc_text(profile.get(), cmsInfoDescription);
    out.copyright = icc_text(profile.get(), cmsInfoCopyright);
    return out;
}

struct IccColours::Transform {
    cmsHTRANSFORM handle = nullptr;
};

IccColours::IccColours(const std::string& bytes) : transform_(std::make_unique<Transform>()) {
    const IccHandle from = icc_handle(bytes), to = linear_romm();
    if (from)
        transform_->handle = cmsCreateTransform(from.get(), TYPE_RGB_FLT, to.get(), TYPE_RGB_FLT,
                                                INTENT_RELATIVE_COLORIMETRIC, cmsFLAGS_NOCACHE);
    if (!transform_->handle)
        throw input_error("The ICC profile has no way from the camera's values to colours; get it anew.");
    find_linear();
}

/// Takes the matrix from what becomes of red, green and blue, and keeps it when it explains other colours, also beyond
/// white.
void IccColours::find_linear() {
    cv::Matx33f matrix;
    for (int c = 0; c < 3; ++c) {
        float v[3] = {};
        v[c] = 1;
        apply(v, 1);
        for (int row = 0; row < 3; ++row) matrix(row, c) = v[row];
    }
    for (const cv::Vec3f& colour : {cv::Vec3f(0.2f, 0.5f, 0.3f),
                                    {0.9f, 0.05f, 0.4f},
                                    {0.01f, 0.02f, 0.6f},
                                    {1.6f, 1.2f, 0.3f},
                                    {0.003f, 0.001f, 0.002f}}) {
        float v[3] = {colour[0], colour[1], colour[2]};
        apply(v, 1);
        const cv::Vec3f by_matrix = matrix * colour;
        for (int c = 0; c < 3; ++c)
            // Turned so that values that are no numbers are no matrix.
            if (!(std::abs(v[c] - by_matrix[c]) <= 2e-6f + 2e-5f * std::abs(by_matrix[c]))) return;
    }
    linear_ = matrix;
}

IccColours::~IccColours() {
    if (transform_ && transform_->handle) cmsDeleteTransform(transform_->handle);
}
IccColours::IccColours(IccColours&&) noexcept = default;

void IccColours::apply(float* rgb, int pixels) const {
    cmsDoTransform(transform_->handle, rgb, rgb, static_cast<cmsUInt32Number>(pixels));
}

}  // namespace optrel
