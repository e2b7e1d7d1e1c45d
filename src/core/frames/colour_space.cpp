// SPDX-License-Identifier: GPL-3.0-or-later
#include "frames/colour_space.h"

#include <fmt/format.h>

#include <memory>

#include "base/error.h"
#include "base/words.h"
#include "frames/icc_handle.h"

namespace optrel {

namespace {

/// v = light * toe below `knee`, (1 + offset) light ^ (1 / gamma) - offset above.
struct TransferCurve {
    double gamma, offset, toe, knee;
};

struct Definition {
    const char *id, *name;
    cmsCIExyYTRIPLE primaries;
    cmsCIExyY white;
    TransferCurve curve;
};

constexpr cmsCIExyY d65{0.3127, 0.3290, 1}, d50{0.3457, 0.3585, 1};
constexpr cmsCIExyYTRIPLE srgb_primaries{{0.64, 0.33, 1}, {0.30, 0.60, 1}, {0.15, 0.06, 1}};
constexpr TransferCurve srgb_curve{2.4, 0.055, 12.92, 0.0031308}, no_curve{1, 0, 1, 0};

constexpr Definition definitions[colour_space_count] = {
    {"srgb", "sRGB", srgb_primaries, d65, srgb_curve},
    {"p3-d65", "P3-D65", {{0.680, 0.320, 1}, {0.265, 0.690, 1}, {0.150, 0.060, 1}}, d65, srgb_curve},
    {"rec2020",
     "Rec. 2020",
     {{0.708, 0.292, 1}, {0.170, 0.797, 1}, {0.131, 0.046, 1}},
     d65,
     {1 / 0.45, 0.0993, 4.5, 0.0181}},
    {"romm",
     "ROMM RGB",
     {{0.7347, 0.2653, 1}, {0.1596, 0.8404, 1}, {0.0366, 0.0001, 1}},
     d50,
     {1.8, 0, 16, 0.001953125}},
    {"linear", "linear sRGB", srgb_primaries, d65, no_curve},
    {"camera", "camera's own", srgb_primaries, d65, no_curve},
};

const Definition& definition(ColourSpace space) { return definitions[static_cast<int>(space)]; }

cv::Vec3d xyz_of(const cmsCIExyY& c) { return {c.x / c.y, 1, (1 - c.x - c.y) / c.y}; }

/// Linear values to XYZ relative to the white of the space (SMPTE RP 177).
cv::Matx33d to_xyz(const Definition& d) {
    const cv::Vec3d r = xyz_of(d.primaries.Red), g = xyz_of(d.primaries.Green), b = xyz_of(d.primaries.Blue);
    const cv::Matx33d columns(r[0], g[0], b[0], r[1], g[1], b[1], r[2], g[2], b[2]);
    const cv::Vec3d amounts = columns.inv() * xyz_of(d.white);
    return columns * cv::Matx33d::diag(amounts);
}

/// Bradford's adaptation (ICC.1:2022, annex E).
cv::Matx33d adapted(const cmsCIExyY& from, const cmsCIExyY& to) {
    const cv::Matx33d cones(0.8951, 0.2664, -0.1614, -0.7502, 1.7135, 0.0367, 0.0389, -0.0685, 1.0296);
    const cv::Vec3d a = cones * xyz_of(from), b = cones * xyz_of(to);
    return cones.inv() * cv::Matx33d::diag(cv::Vec3d(b[0] / a[0], b[1] / a[1], b[2] / a[2])) * cones;
}

using IccCurve = std::unique_ptr<cmsToneCurve, decltype(&cmsFreeToneCurve)>;

/// The curve as parametric type 3 of ICC.1, from encoded values to linear light.
IccCurve icc_curve(const TransferCurve& c) {
    if (c.gamma == 1) return {cmsBuildGamma(nullptr, 1), cmsFreeToneCurve};
    const double parameters[5] = {c.gamma, 1 / (1 + c.offset), c.offset / (1 + c.offset), 1 / c.toe, c.toe * c.knee};
    return {cmsBuildParametricToneCurve(nullptr, 4, parameters), cmsFreeToneCurve};
}

void name_profile(cmsHPROFILE profile, const std::string& name) {
    cmsMLU* text = cmsMLUalloc(nullptr, 1);
    cmsMLUsetASCII(text, "en", "GB", name.c_str());
    cmsWriteTag(profile, cmsSigProfileDescriptionTag, text);
    cmsMLUfree(text);
}

/// Sets the colours of the camera's primaries, in XYZ of D50.
void set_primaries(cmsHPROFILE profile, const cv::Matx33d& camera_to_srgb) {
    const cv::Matx33d m = adapted(d65, d50) * to_xyz(definition(ColourSpace::srgb)) * camera_to_srgb;
    const cmsTagSignature tags[] = {cmsSigRedColorantTag, cmsSigGreenColorantTag, cmsSigBlueColorantTag};
    for (int c = 0; c < 3; ++c) {
        cmsCIEXYZ colour{m(0, c), m(1, c), m(2, c)};
        cmsWriteTag(profile, tags[c], &colour);
    }
    // The library also writes the chromaticities of the given primaries. Those of a camera may be imaginary, which this
    // tag cannot represent.
    cmsWriteTag(profile, cmsSigChromaticityTag, nullptr);
}

}  // namespace

std::string to_string(ColourSpace space) { return definition(space).id; }
std::string name_of(ColourSpace space) { return definition(space).name; }

ColourSpace colour_space_from(const std::string& text) {
    std::vector<std::string> ids;
    for (int i = 0; i < colour_space_count; ++i) {
        if (lowered(text) == definitions[i].id) return static_cast<ColourSpace>(i);
        ids.push_back(definitions[i].id);
    }
    throw input_error(fmt::format("There is no colour space '{}'; choose {}.", printable(text), one_of(ids)));
}

cv::Matx33d srgb_to(ColourSpace space) {
    const Definition &from = definition(ColourSpace::srgb), &to = definition(space);
    if (space == ColourSpace::srgb || space == ColourSpace::linear || space == ColourSpace::camera)
        return cv::Matx33d::eye();
    return to_xyz(to).inv() * adapted(from.white, to.white) * to_xyz(from);
}

double encode_light(ColourSpace space, double light) {
    const TransferCurve& c = definition(space).curve;
    if (light < c.knee || c.gamma == 1) return light * c.toe;
    return (1 + c.offset) * std::pow(light, 1 / c.gamma) - c.offset;
}

double decode_light(ColourSpace space, double value) {
    const TransferCurve& c = definition(space).curve;
    if (value < c.toe * c.knee || c.gamma == 1) return value / c.toe;
    return std::pow((value + c.offset) / (1 + c.offset), c.gamma);
}

const std::vector<float>& srgb_light() {
    static const std::vector<float> light = [] {
        std::vector<float> all(65536);
        for (std::size_t i = 0; i < all.size(); ++i)
            all[i] = static_cast<float>(decode_light(ColourSpace::srgb, static_cast<double>(i) / 65535));
        return all;
    }();
    return light;
}

LightEncoder::LightEncoder(ColourSpace space) : straight_(definition(space).curve.gamma == 1) {
    for (int i = 0; i < entries + 2; ++i) {
        const double root = static_cast<double>(i) / entries;
        table_[i] = static_cast<float>(65535 * std::min(1.0, encode_light(space, root * root)));
    }
}

std::string icc_profile(ColourSpace space, const cv::Matx33d& camera_to_srgb) {
    const Definition& d = definition(space);
    const IccCurve curve = icc_curve(d.curve);
    cmsToneCurve* curves[3] = {curve.get(), curve.get(), curve.get()};
    const IccHandle profile(cmsCreateRGBProfile(&d.white, &d.primaries, curves), cmsCloseProfile);
    if (space == ColourSpace::camera) set_primaries(profile.get(), camera_to_srgb);
    name_profile(profile.get(), std::string(d.name) + " (Optrel)");
    cmsUInt32Number size = 0;
    cmsSaveProfileToMem(profile.get(), nullptr, &size);
    std::string bytes(size, '\0');
    cmsSaveProfileToMem(profile.get(), bytes.data(), &size);
    // Bytes 24 to 35 of the header are the time of creation. A constant date gives equal files for equal pictures.
    static const char made[12] = {7, static_cast<char>(0xea), 0, 1, 0, 1, 0, 0, 0, 0, 0, 0};
    if (bytes.size() >= 36) bytes.replace(24, 12, made, 12);
    return bytes;
}

}  // namespace optrel
