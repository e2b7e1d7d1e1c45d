// SPDX-License-Identifier: GPL-3.0-or-later
// The fields that special bodies need: white balance of their own, rendering, levels, hot pixels, fringes, thresholds.
#include <catch2/catch.hpp>
#include <opencv2/imgproc.hpp>
#include <random>

#include "render/colour.h"
#include "render/defringing.h"
#include "render/develop.h"
#include "render/hot_pixels.h"
#include "render/sharpen.h"
#include "render/tone.h"
#include "rig/random.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

RawPicture raw_of(std::array<double, 3> light, int width = 240, int height = 160) {
    RawPicture raw;
    raw.counts.create(height, width);
    raw.filter = {{{0, 1}, {1, 2}}};
    raw.black = {{{1000, 1000}, {1000, 1000}}};
    raw.white = 61000;
    raw.xyz_to_camera = cv::Matx33d(0.7435, -0.2411, -0.0689, -0.4632, 1.2417, 0.2482, -0.0713, 0.1514, 0.642);
    raw.has_colour_matrix = true;
    raw.as_shot_neutral = {0.5, 1, 0.6};
    for (int row = 0; row < height; ++row)
        for (int i = 0; i < width; ++i)
            raw.counts(row, i) = static_cast<std::uint16_t>(1000 + 60000 * light[raw.filter.at(row, i)]);
    return raw;
}

ResolvedFrame fields_with(std::initializer_list<std::pair<Field, Value>> values) {
    ResolvedFrame f = neutral_start();
    for (const auto& [field, value] : values) f.fields[static_cast<int>(field)].value = value;
    return f;
}

/// Linear sRGB in the middle of the developed picture.
cv::Vec3d developed(const RawPicture& raw, std::initializer_list<std::pair<Field, Value>> values) {
    const Developed d = develop(raw, 9.4, fields_with(values), std::nullopt, Progress());
    const cv::Scalar m = cv::mean(d.rgb(cv::Rect(d.rgb.cols / 2 - 8, d.rgb.rows / 2 - 8, 16, 16)));
    cv::Vec3d out;
    for (int c = 0; c < 3; ++c) {
        const double v = m[c] / 65535;
        out[c] = v <= 0.04045 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4);
    }
    return out;
}

const std::array<double, 3> grey{0.1, 0.2, 0.12}, leaf{0.05, 0.2, 0.06};

Value text_value(const char* t) { return {0, t}; }
Value number_value(double v) { return {v, ""}; }

}  // namespace

TEST_CASE("the light of a neutral is found again from its camera values", "[render]") {
    const RawPicture raw = raw_of(grey);
    for (const double kelvin : {2500.0, 4000.0, 5500.0, 9000.0})
        for (const double tint : {-40.0, 0.0, 25.0}) {
            const Illuminant light = illuminant_of(raw, neutral_of(raw, kelvin, tint));
            CHECK(light.kelvin == Approx(kelvin).epsilon(1e-4));
            CHECK(light.tint == Approx(tint).margin(0.02));
        }
    CHECK_NOTHROW(illuminant_of(raw, {0, 1, 0}));
    CHECK_NOTHROW(illuminant_of(raw, {9, 1, 9}));
}

TEST_CASE("a white balance offset moves the recorded neutral, and none leaves it", "[render]") {
    const RawPicture raw = raw_of(grey);
    const cv::Vec3d plain = developed(raw, {});
    const cv::Vec3d none = developed(raw, {{Field::white_balance, text_value("offset")}});
    for (int c = 0; c < 3; ++c) CHECK(none[c] == Approx(plain[c]).margin(2e-4));
    const cv::Vec3d cooler =
        developed(raw, {{Field::white_balance, text_value("offset")}, {Field::warmth_offset, number_value(40)}});
    CHECK(cooler[0] / cooler[2] < 0.95 * plain[0] / plain[2]);
    const cv::Vec3d magenta =
        developed(raw, {{Field::white_balance, text_value("offset")}, {Field::tint_offset, number_value(30)}});
    CHECK(magenta[1] / magenta[0] < plain[1] / plain[0]);
}

TEST_CASE("monochrome is the luminance, a channel mix its nine weights", "[render]") {
    const RawPicture raw = raw_of(leaf);
    const cv::Vec3d colour = developed(raw, {});
    const cv::Vec3d mono = developed(raw, {{Field::rendering, text_value("monochrome")}});
    const double luminance = 0.2126 * colour[0] + 0.7152 * colour[1] + 0.0722 * colour[2];
    for (int c = 0; c < 3; ++c) CHECK(mono[c] == Approx(luminance).epsilon(0.01));
    const cv::Vec3d swapped = developed(raw, {{Field::rendering, text_value("channel mix")},
                                              {Field::mix_red_red, number_value(0)},
                                              {Field::mix_red_blue, number_value(100)},
                                              {Field::mix_blue_blue, number_value(0)},
                                              {Field::mix_blue_red, number_value(100)}});
    CHECK(swapped[0] == Approx(colour[2]).epsilon(0.01).margin(1e-3));
    CHECK(swapped[1] == Approx(colour[1]).epsilon(0.01));
    const cv::Vec3d half =
        developed(raw, {{Field::rendering, text_value("channel mix")}, {Field::mix_green_green, number_value(50)}});
    CHECK(half[1] == Approx(0.5 * colour[1]).epsilon(0.01));
    // The weights do nothing while rendering is another.
    CHECK(developed(raw, {{Field::mix_green_green, number_value(50)}})[1] == Approx(colour[1]).epsilon(1e-6));
}

TEST_CASE("rendering as recorded takes the exposure and the curve that the file embeds", "[render]") {
    RawPicture raw = raw_of(grey);
    const cv::Vec3d plain = developed(raw, {});
    raw.rendering.baseline_exposure = 1;
    CHECK(developed(raw, {})[1] == Approx(plain[1]).epsilon(1e-6));
    CHECK(developed(raw, {{Field::rendering, text_value("as recorded")}})[1] == Approx(2 * plain[1]).epsilon(0.005));
    raw.rendering = {0, {{0.f, 0.f}, {0.5f, 0.25f}, {1.f, 1.f}}};
    CHECK(developed(raw, {{Field::rendering, text_value("as recorded")}})[1] ==
          Approx(plain[1] < 0.5 ? plain[1] / 2 : 0).epsilon(0.005));
}

TEST_CASE("the black point is taken off and white stays white", "[render]") {
    const RawPicture raw = raw_of(grey);
    const double plain = developed(raw, {})[1];
    CHECK(developed(raw, {{Field::black_point, number_value(5)}})[1] == Approx((plain - 0.05) / 0.95).epsilon(0.005));
}

TEST_CASE("auto levels spread what the frame holds, each frame by itself", "[render]") {
    RawPicture raw = raw_of({0.1, 0.2, 0.12});
    for (int row = 0; row < raw.counts.rows; ++row)
        for (int i = 0; i < raw.counts.cols; ++i)
            raw.counts(row, i) =
                static_cast<std::uint16_t>(1000 + (raw.counts(row, i) - 1000) * (0.25 + 0.75 * i / raw.counts.cols));
    const Developed d =
        develop(raw, 9.4, fields_with({{Field::auto_levels, text_value("on")}}), std::nullopt, Progress());
    const int row = d.rgb.rows / 2;
    CHECK(d.rgb(row, 3)[1] < 9000);
    CHECK(d.rgb(row, d.rgb.cols - 4)[1] > 0.94 * 65535);
    CHECK_NOTHROW(develop(raw_of({0, 0, 0}), 9.4, fields_with({{Field::auto_levels, text_value("on")}}), std::nullopt,
                          Progress()));
}

TEST_CASE("auto levels take the percentiles of all samples", "[render]") {
    std::mt19937 random(8);
    std::uniform_real_distribution<float> u(0.02f, 0.6f);
    Planes planes(cv::Size(701, 503));
    std::vector<float> all;
    for (int row = 0; row < 503; ++row)
        for (int i = 0; i < 701; ++i) {
            // Rare bright lines, which a sub-sample of rows would miss or count too often.
            const float v = row % 97 == 5 ? 0.9f : u(random);
            for (cv::Mat1f& c : planes.channel) c(row, i) = v;
            all.push_back(v);
        }
    std::sort(all.begin(), all.end());
    const float low = all[all.size() / 1000], high = all[all.size() * 999 / 1000];
    ToneSettings settings;
    settings.auto_levels = true;
    const float before = planes.channel[1](250, 350);
    tone(planes, cv::Matx33f::eye(), settings);
    CHECK(planes.channel[1](250, 350) == Approx((before - low) / (high - low) * 0.95f).margin(1e-3));
}

TEST_CASE("hot pixels are repaired, points of light and edges are kept", "[render]") {
    RawPicture raw = raw_of(grey);
    for (int row = 0; row < raw.counts.rows; ++row)
        for (int i = 0; i < raw.counts.cols; ++i)
            raw.counts(row, i) = cv::saturate_cast<std::uint16_t>(
                raw.counts(row, i) + 40 * rig::normal(static_cast<std::uint64_t>(row) * 1000 + i));
    const cv::Mat1w calm = raw.counts.clone();
    raw.counts(60, 80) = 60000;
    raw.counts(61, 121) = 40000;
    // A bright square has neighbours of its own colour that are bright as well.
    raw.counts(cv::Rect(180, 60, 12, 12)) = 50000;
    const cv::Mat1w repaired = without_hot_pixels(raw);
    CHECK(std::abs(repaired(60, 80) - calm(60, 80)) < 300);
    CHECK(std::abs(repaired(61, 121) - calm(61, 121)) < 300);
    cv::Mat1w rest = raw.counts.clone(), same = repaired.clone();
    for (const cv::Point p : {cv::Point(80, 60), cv::Point(121, 61)}) rest(p) = same(p) = 0;
    CHECK(cv::countNonZero(rest != same) == 0);
    CHECK(cv::countNonZero(raw.counts != repaired) == 2);
    RawPicture tiny = raw_of(grey, 4, 4);
    CHECK_NOTHROW(without_hot_pixels(tiny));
    CHECK(developed(raw, {{Field::hot_pixel_repair, text_value("on")}})[1] > 0);
}

TEST_CASE("fringe suppression takes colour that neither side of an edge has, and keeps what either has", "[render]") {
    Planes p(cv::Size(120, 60));
    for (int row = 0; row < 60; ++row)
        for (int i = 0; i < 120; ++i) {
            const float edge = i < 60 ? 0.1f : 0.8f;
            for (cv::Mat1f& c : p.channel) c(row, i) = edge;
            if (i >= 58 && i < 61) p.channel[2](row, i) += 0.3f;  // a blue fringe
            if (i >= 100) p.channel[0](row, i) += 0.2f;           // a red area
        }
    Planes half = p, full = p;
    for (int c = 0; c < 3; ++c) {
        half.channel[c] = p.channel[c].clone();
        full.channel[c] = p.channel[c].clone();
    }
    apply_defringing(half, {50, {}, false});
    apply_defringing(full, {100, {}, false});
    CHECK(half.channel[2](30, 59) == Approx(p.channel[2](30, 59) - 0.15f).margin(0.005));
    CHECK(full.channel[2](30, 59) == Approx(0.1f).margin(0.01));
    CHECK(full.channel[0](30, 110) == Approx(p.channel[0](30, 110)));
    CHECK(full.channel[0](30, 101) == Approx(p.channel[0](30, 101)));
    CHECK(cv::norm(full.channel[1], p.channel[1]) == 0);
}

TEST_CASE("a sharpening threshold leaves weak differences alone", "[render]") {
    const auto edge = [](float step, double threshold) {
        Planes p(cv::Size(80, 20));
        for (int row = 0; row < 20; ++row)
            for (int i = 0; i < 80; ++i)
                for (cv::Mat1f& c : p.channel) c(row, i) = i < 40 ? 0.3f : 0.3f + step;
        sharpen(p, {100, 1, threshold, {}});
        return static_cast<double>(p.channel[1](10, 40) - 0.3f - step) / step;
    };
    CHECK(edge(0.4f, 0) == Approx(edge(0.02f, 0)).epsilon(0.01));
    CHECK(edge(0.02f, 5) < 0.05 * edge(0.02f, 0));
    CHECK(edge(0.4f, 5) > 0.8 * edge(0.4f, 0));
}

TEST_CASE("noise that is treated elsewhere is not treated here", "[render]") {
    RawPicture raw = raw_of(grey);
    for (int row = 0; row < raw.counts.rows; ++row)
        for (int i = 0; i < raw.counts.cols; ++i)
            raw.counts(row, i) = cv::saturate_cast<std::uint16_t>(
                raw.counts(row, i) + 900 * rig::normal(static_cast<std::uint64_t>(row) * 1000 + i));
    const auto spread = [&](std::initializer_list<std::pair<Field, Value>> values) {
        cv::Scalar mean, sigma;
        cv::meanStdDev(develop(raw, 9.4, fields_with(values), std::nullopt, Progress()).rgb, mean, sigma);
        return sigma[1];
    };
    const double plain = spread({}), reduced = spread({{Field::luminance_noise, number_value(80)}});
    CHECK(reduced < 0.9 * plain);
    CHECK(spread({{Field::luminance_noise, number_value(80)}, {Field::noise_elsewhere, text_value("on")}}) ==
          Approx(plain));
}
