// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/colour_rendering.h"

#include <lcms2.h>

#include <catch2/catch.hpp>
#include <random>

#include "render/cielab.h"
#include "render/develop.h"
#include "render/tone.h"
#include "support/colour_files.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

RawPicture some_raw() {
    RawPicture raw;
    raw.xyz_to_camera = cv::Matx33d(daylight_matrix.data());
    raw.has_colour_matrix = true;
    raw.as_shot_neutral = {0.52, 1, 0.64};
    raw.camera_names = {"Aldermoor Q1"};
    return raw;
}

Planes pixels(const std::vector<cv::Vec3f>& colours) {
    Planes out(cv::Size(static_cast<int>(colours.size()), 1));
    for (std::size_t i = 0; i < colours.size(); ++i)
        for (int c = 0; c < 3; ++c) out.channel[c](0, static_cast<int>(i)) = colours[i][c];
    return out;
}

cv::Vec3d at(const Planes& planes, int i) {
    return {planes.channel[0](0, i), planes.channel[1](0, i), planes.channel[2](0, i)};
}

std::vector<cv::Vec3f> random_colours(int n, unsigned seed, float most = 1) {
    std::mt19937 random(seed);
    std::uniform_real_distribution<float> u(0.02f, most);
    std::vector<cv::Vec3f> out;
    for (int i = 0; i < n; ++i) out.emplace_back(u(random), u(random), u(random));
    return out;
}

/// XYZ of D50 to linear sRGB, by the primaries and Bradford's adaptation as the ICC publishes them.
const cv::Matx33d d50_to_srgb(3.1338561, -1.6168667, -0.4906146, -0.9787684, 1.9161415, 0.0334540, 0.0719453,
                              -0.2289914, 1.4052427);

/// A colour as the specification's hue table moves it: by another formula for the hexcone, and one corner at a time.
cv::Vec3d slow_look_up(const HueTable& t, const cv::Vec3d& rgb) {
    const double v = std::max({rgb[0], rgb[1], rgb[2]}), low = std::min({rgb[0], rgb[1], rgb[2]}), c = v - low;
    double h = 0;
    if (c > 0 && v == rgb[0]) h = std::fmod((rgb[1] - rgb[2]) / c + 6, 6.0);
    if (c > 0 && v == rgb[1] && v != rgb[0]) h = (rgb[2] - rgb[0]) / c + 2;
    if (c > 0 && v == rgb[2] && v != rgb[0] && v != rgb[1]) h = (rgb[0] - rgb[1]) / c + 4;
    const double s = v > 0 ? c / v : 0;
    std::array<double, 3> e{0, 0, 0};
    for (int iv = 0; iv < t.values; ++iv)
        for (int ih = 0; ih < t.hues; ++ih)
            for (int is = 0; is < t.saturations; ++is) {
                const double grid_v = t.values > 1 ? v * (t.values - 1) - iv : 0, grid_s = s * (t.saturations - 1) - is;
                double grid_h = std::abs(h * t.hues / 6 - ih);
                grid_h = std::min(grid_h, t.hues - grid_h);
                const double w = std::max(0.0, 1 - std::abs(grid_v)) * std::max(0.0, 1 - std::abs(grid_s)) *
                                 (t.hues > 1 ? std::max(0.0, 1 - grid_h) : 1);
                for (int k = 0; k < 3; ++k) e[k] += w * t.entries[(iv * t.hues + ih) * t.saturations + is][k];
            }
    const double hue = 60 * h + e[0], sat = std::min(1.0, s * e[1]), val = v * e[2];
    const auto channel = [&](double n) {
        const double k = std::fmod(std::fmod(n + hue / 60, 6) + 6, 6);
        return val - val * sat * std::max(0.0, std::min({k, 4 - k, 1.0}));
    };
    return {channel(5), channel(3), channel(1)};
}

HueTable random_table(int hues, int saturations, int values, unsigned seed) {
    std::mt19937 random(seed);
    std::uniform_real_distribution<float> shift(-40, 40), factor(0.7f, 1.3f);
    HueTable t{hues, saturations, values, {}, false};
    for (int i = 0; i < hues * saturations * values; ++i)
        t.entries.push_back({shift(random), factor(random), factor(random)});
    return t;
}

ResolvedFrame with(const std::string& source, std::shared_ptr<const ColourProfile> file = nullptr) {
    ResolvedFrame f = neutral_start();
    f.fields[static_cast<int>(Field::colour_source)].value.text = source;
    f.colour_file = std::move(file);
    return f;
}

}  // namespace

TEST_CASE("hue tables move colours as a slow formula does", "[render][colour]") {
    for (const auto& [h, s, v] :
         {std::array{6, 3, 1}, std::array{90, 30, 1}, std::array{8, 4, 5}, std::array{1, 2, 2}}) {
        const HueTable t = random_table(h, s, v, static_cast<unsigned>(h));
        for (const cv::Vec3f& c : random_colours(300, 3)) {
            const cv::Vec3f fast = look_up(t, c);
            CHECK(cv::norm(cv::Vec3d(fast) - slow_look_up(t, c)) < 2e-5);
        }
    }
    // Greys have no hue to shift, and a table that says nothing changes nothing.
    HueTable none{6, 2, 1, std::vector<std::array<float, 3>>(12, {0, 1, 1}), false};
    for (const cv::Vec3f& c : random_colours(50, 4)) CHECK(cv::norm(look_up(none, c) - c) < 1e-6);
    const cv::Vec3f grey = look_up(random_table(6, 3, 1, 1), {0.4f, 0.4f, 0.4f});
    CHECK(grey[0] == Approx(grey[1]));
    CHECK(grey[1] == Approx(grey[2]));
    // Turned by 120 degrees red becomes green; light below zero counts as none.
    none.entries.assign(12, {120, 1, 1});
    CHECK(cv::norm(look_up(none, {0.8f, -0.1f, 0}) - cv::Vec3f(0, 0.8f, 0)) < 1e-6);
}

TEST_CASE("a table's values may stand on the curve of sRGB", "[render][colour]") {
    HueTable t{1, 2, 3, {}, true};
    for (const float f : {1.f, 1.f, 2.f, 2.f, 3.f, 3.f}) t.entries.push_back({0, 1, f});
    const float mid = 0.214f;  // encoded: one half
    CHECK(look_up(t, {mid, mid, mid})[0] == Approx(2 * mid).epsilon(2e-3));
    t.encoded_value = false;
    CHECK(look_up(t, {mid, mid, mid})[0] == Approx((1 + 2 * mid) * mid).epsilon(1e-4));
}

TEST_CASE("the tone curve of a colour profile keeps the hue", "[render][colour]") {
    const HueKeepingCurve curve({{0, 0}, {0.1f, 0.2f}, {0.5f, 0.8f}, {1, 1}});
    for (const cv::Vec3f& c : random_colours(200, 5)) {
        const cv::Vec3f out = curve(c);
        const auto place = [](const cv::Vec3f& v) {
            const float high = std::max({v[0], v[1], v[2]}), low = std::min({v[0], v[1], v[2]});
            return cv::Vec3f((v[0] - low) / (high - low), (v[1] - low) / (high - low), (v[2] - low) / (high - low));
        };
        CHECK(cv::norm(place(out) - place(c)) < 1e-4);
    }
    CHECK(curve({0.3f, 0.3f, 0.3f})[1] == Approx(0.5f).epsilon(1e-3));
    CHECK(curve({1, 1, 1})[0] == Approx(1));
    CHECK(curve({2, 0, 0})[0] > 1.2f);  // what is brighter than white stays brighter
}

TEST_CASE("the temperature of a light is found from its chromaticity", "[render][colour]") {
    CHECK(correlated_temperature({0.44757, 0.40745}) == Approx(2856).epsilon(0.004));  // A
    CHECK(correlated_temperature({0.34567, 0.35850}) == Approx(5003).epsilon(0.004));  // D50
    CHECK(correlated_temperature({0.31271, 0.32902}) == Approx(6504).epsilon(0.004));  // D65
}

TEST_CASE("two lights are interpolated as the specification says", "[render][colour]") {
    const ColourProfile p = colour_profile_from(two_lights().bytes(), "p");
    const CameraMatrices m(*p.dng, {});
    const cv::Matx33d a(tungsten_matrix.data()), b(daylight_matrix.data());
    CHECK(cv::norm(m.at(2000) - a) < 1e-9);
    CHECK(cv::norm(m.at(2856) - a) < 1e-9);
    CHECK(cv::norm(m.at(12000) - b) < 1e-9);
    const double share = (1 / 2856.0 - 1 / 4000.0) / (1 / 2856.0 - 1 / 6504.0);
    CHECK(cv::norm(m.at(4000) - (a * (1 - share) + b * share)) < 1e-9);
    // The white is one that the matrices of its own light see as the neutral.
    for (const double kelvin : {2400., 3100., 4200., 5600., 8000.})
        for (const double tint : {-20., 0., 15.}) {
            const std::array<double, 3> neutral = neutral_of(m, kelvin, tint);
            const cv::Vec2d xy = white_of(m, neutral);
            const cv::Vec3d seen =
                m.at(correlated_temperature(xy)) * cv::Vec3d(xy[0] / xy[1], 1, (1 - xy[0] - xy[1]) / xy[1]);
            for (int c = 0; c < 3; ++c) CHECK(seen[c] / seen[1] == Approx(neutral[c] / neutral[1]).epsilon(1e-4));
            const Illuminant back = illuminant_of(m, neutral);
            CHECK(back.kelvin == Approx(kelvin).epsilon(1e-3));
            CHECK(back.tint == Approx(tint).margin(0.1));
        }
}

TEST_CASE("colours come out as the specification's formulae say", "[render][colour]") {
    RawPicture raw = some_raw();
    auto carried = std::make_shared<EmbeddedColours>();
    carried->calibration.signature = "bench 4";
    carried->calibration.balance = {1.02, 1, 0.97};
    carried->calibration.by_light[0] = cv::Matx33d(1.03, 0, 0, 0, 1, 0.01, 0, 0, 0.98);
    carried->calibration.by_light[1] = cv::Matx33d(0.99, 0.01, 0, 0, 1, 0, 0, 0, 1.02);
    raw.carried = carried;
    for (const bool forward : {true, false})
        for (const bool swapped : {true, false}) {
            ProfileFile file = two_lights().text(dng::profile_signature, "bench 4");
            if (forward) file.rationals(dng::forward1, tungsten_forward).rationals(dng::forward2, daylight_forward);
            if (swapped) file.u16(dng::light1, 21).u16(dng::light2, 17);
            const ColourProfile p = colour_profile_from(file.bytes(), "p");
            const std::array<double, 3> neutral{0.61, 1, 0.48};
            const ColourRendering rendering(p, raw, neutral, true, true);
            // By hand, for the light that was found.
            const double k1 = swapped ? 6504 : 2856, k2 = swapped ? 2856 : 6504;
            const double w1 = std::clamp((1 / rendering.kelvin() - 1 / k2) / (1 / k1 - 1 / k2), 0.0, 1.0);
            const auto mixed = [&](const cv::Matx33d& one, const cv::Matx33d& two) {
                return one * w1 + two * (1 - w1);
            };
            const cv::Matx33d cm = mixed(cv::Matx33d(tungsten_matrix.data()), cv::Matx33d(daylight_matrix.data()));
            const cv::Matx33d cc = mixed(carried->calibration.by_light[0], carried->calibration.by_light[1]);
            const cv::Matx33d ab = cv::Matx33d::diag(carried->calibration.balance);
            const cv::Vec3d camera_neutral(neutral[0], neutral[1], neutral[2]);
            cv::Matx33d to_xyz;
            if (forward) {
                const cv::Vec3d reference = (ab * cc).inv() * camera_neutral;
                const cv::Matx33d d =
                    cv::Matx33d::diag(cv::Vec3d(1 / reference[0], 1 / reference[1], 1 / reference[2]));
                to_xyz = mixed(cv::Matx33d(tungsten_forward.data()), cv::Matx33d(daylight_forward.data())) * d *
                         (ab * cc).inv();
            } else {
                const cv::Matx33d inverse = (ab * cc * cm).inv();
                const cv::Vec3d white = inverse * camera_neutral;
                const cv::Matx33d bradford(0.8951, 0.2664, -0.1614, -0.7502, 1.7135, 0.0367, 0.0389, -0.0685, 1.0296);
                const cv::Vec3d from = bradford * (white * (1 / white[1])),
                                to = bradford * cv::Vec3d(0.9642, 1, 0.8251);
                to_xyz = bradford.inv() *
                         cv::Matx33d::diag(cv::Vec3d(to[0] / from[0], to[1] / from[1], to[2] / from[2])) * bradford *
                         inverse * (1 / white[1]);
            }
            const std::vector<cv::Vec3f> balanced = random_colours(60, 9);
            Planes planes = pixels(balanced);
            rendering.begin(planes, 1);
            for (int i = 0; i < 60; ++i) {
                const cv::Vec3d camera = cv::Vec3d(balanced[i]).mul(camera_neutral);
                CHECK(cv::norm(at(planes, i) - d50_to_srgb * (to_xyz * camera)) < 2e-3);
            }
            Planes white = pixels({{1, 1, 1}});
            rendering.begin(white, 2);
            for (int c = 0; c < 3; ++c) CHECK(at(white, 0)[c] == Approx(2).epsilon(2e-3));
        }
}

TEST_CASE("a body's own calibration is for profiles of its own reference only", "[render][colour]") {
    BodyCalibration body;
    body.signature = "bench 4";
    body.by_light[0] = cv::Matx33d(1.2, 0, 0, 0, 1, 0, 0, 0, 0.8);
    const ColourProfile other = colour_profile_from(two_lights().text(dng::profile_signature, "other").bytes(), "p");
    CHECK(cv::norm(CameraMatrices(*other.dng, body).at(2856) - cv::Matx33d(tungsten_matrix.data())) < 1e-9);
    const ColourProfile own = colour_profile_from(two_lights().text(dng::profile_signature, "bench 4").bytes(), "p");
    CHECK(cv::norm(CameraMatrices(*own.dng, body).at(2856) - cv::Matx33d(tungsten_matrix.data())) > 0.1);
}

TEST_CASE("look table and tone curve come in only where they are asked for", "[render][colour]") {
    ProfileFile file = two_lights().floats(dng::curve, {0, 0, 0.5f, 0.8f, 1, 1}).rationals(dng::exposure_offset, {0.5});
    std::vector<float> look;
    for (int i = 0; i < 2; ++i)
        for (const float v : {0.f, 0.5f, 1.f}) look.push_back(v);
    file.u32s(dng::look_dims, {1, 2, 1}).floats(dng::look_data, look);
    const ColourProfile p = colour_profile_from(file.bytes(), "p");
    const RawPicture raw = some_raw();
    const cv::Vec3f colour(0.5f, 0.2f, 0.2f);
    const auto finished = [&](bool with_look, bool with_curve) {
        Planes planes = pixels({colour});
        ColourRendering(p, raw, raw.as_shot_neutral, with_look, with_curve).finish(planes);
        return at(planes, 0);
    };
    CHECK(cv::norm(finished(false, false) - cv::Vec3d(colour)) < 1e-6);
    CHECK(finished(false, true)[1] > 0.25);
    CHECK(finished(true, false)[0] - finished(true, false)[1] < 0.2);  // half the saturation
    CHECK(ColourRendering(p, raw, raw.as_shot_neutral, true, false).exposure_offset() == 0);
    CHECK(ColourRendering(p, raw, raw.as_shot_neutral, true, true).exposure_offset() == Approx(0.5));

    // The curve of the profile takes the place of the one that is embedded beside it.
    ResolvedFrame f = with("carried");
    f.fields[static_cast<int>(Field::rendering)].value.text = "as recorded";
    const EmbeddedRendering embedded{0.25, {{0, 0}, {0.5f, 0.6f}, {1, 1}}};
    const auto rendering = std::make_shared<const ColourRendering>(p, raw, raw.as_shot_neutral, false, true);
    CHECK(tone_settings(f, embedded, rendering).curve.empty());
    CHECK(tone_settings(f, embedded, rendering).exposure_ev == Approx(0.75));
    CHECK_FALSE(tone_settings(f, embedded).curve.empty());
}

TEST_CASE("an ICC input profile renders as Little CMS does", "[render][colour]") {
    const cmsCIExyY white{0.3457, 0.3585, 1};
    const cmsCIExyYTRIPLE primaries{{0.70, 0.29, 1}, {0.20, 0.75, 1}, {0.13, 0.04, 1}};
    cmsToneCurve* gamma = cmsBuildGamma(nullptr, 1.4);
    cmsToneCurve* curves[] = {gamma, gamma, gamma};
    cmsHPROFILE camera = cmsCreateRGBProfile(&white, &primaries, curves);
    cmsFreeToneCurve(gamma);
    cmsSetDeviceClass(camera, cmsSigInputClass);
    cmsUInt32Number n = 0;
    cmsSaveProfileToMem(camera, nullptr, &n);
    std::string bytes(n, '\0');
    cmsSaveProfileToMem(camera, bytes.data(), &n);
    cmsHPROFILE xyz = cmsCreateXYZProfile();
    cmsHTRANSFORM direct =
        cmsCreateTransform(camera, TYPE_RGB_DBL, xyz, TYPE_XYZ_DBL, INTENT_RELATIVE_COLORIMETRIC, cmsFLAGS_NOOPTIMIZE);

    const RawPicture raw = some_raw();
    const ColourRendering rendering(colour_profile_from(bytes, "room.icc"), raw, raw.as_shot_neutral, true, true);
    const std::vector<cv::Vec3f> colours = random_colours(200, 21);
    Planes planes = pixels(colours);
    rendering.begin(planes, 1);
    for (int i = 0; i < 200; ++i) {
        const cv::Vec3d in = colours[static_cast<std::size_t>(i)];
        cv::Vec3d out;
        cmsDoTransform(direct, in.val, out.val, 1);
        CHECK(cv::norm(at(planes, i) - d50_to_srgb * out) < 3e-3);
    }
    cmsDeleteTransform(direct);
    cmsCloseProfile(xyz);
    cmsCloseProfile(camera);
}

TEST_CASE("a colour file that is not here, or is another camera's, is told and not replaced by a guess",
          "[render][colour]") {
    const RawPicture raw = some_raw();
    const auto file = std::make_shared<const ColourProfile>(
        colour_profile_from(two_lights().text(dng::camera, "ALDERMOOR q1").bytes(), "p"));
    const auto others = std::make_shared<const ColourProfile>(
        colour_profile_from(two_lights().text(dng::camera, "Brackwater N2").bytes(), "p"));
    CHECK(colour_profile_for(raw, with("camera matrix", file)) == nullptr);
    CHECK(colour_profile_for(raw, with("carried")) == nullptr);
    CHECK(colour_profile_for(raw, with("Room #0123456789ab", file)) == file);
    const std::string missing = sentence_of([&] { colour_profile_for(raw, with("Room #0123456789ab")); });
    CHECK(is_one_sentence(missing));
    CHECK(missing.find("Room") != std::string::npos);
    const std::string foreign = sentence_of([&] { colour_profile_for(raw, with("Room #0123456789ab", others)); });
    CHECK(is_one_sentence(foreign));
    CHECK(foreign.find("Brackwater N2") != std::string::npos);
}

TEST_CASE("differences of colours are those of CIELAB", "[render][colour]") {
    CHECK(cv::norm(cielab({1, 1, 1}) - cv::Vec3d(100, 0, 0)) < 1e-6);
    CHECK(cv::norm(cielab({1, 0, 0}) - cv::Vec3d(53.24, 80.09, 67.20)) < 0.05);
    CHECK(cv::norm(cielab({0, 0, 1}) - cv::Vec3d(32.30, 79.19, -107.86)) < 0.05);
    cv::Mat3w a(10, 10, cv::Vec3w(30000, 30000, 30000)), b = a.clone();
    CHECK(colour_difference(a, b).largest == 0);
    b(3, 3) = {65535, 65535, 65535};
    const ColourDifference d = colour_difference(a, b);
    CHECK(d.p95 == 0);
    CHECK(d.mean == Approx(d.largest / 100));
    CHECK_THROWS(colour_difference(a, b(cv::Rect(0, 0, 5, 5))));
}
