// SPDX-License-Identifier: GPL-3.0-or-later
#include <catch2/catch.hpp>
#include <opencv2/imgproc.hpp>

#include "render/colour.h"
#include "render/demosaic.h"
#include "render/develop.h"
#include "render/noise_reduction.h"
#include "render/quick_look.h"
#include "render/resample.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

const PictureGeometry small_geometry{480, 320, 40};

ProfileNode bent_lens() {
    ProfileNode n;
    n.focal_mm = 30;
    n.model = LensModel(LensModelKind::radial_tangential, {-0.2, 0.05, 0, 0, 0, 0, 0});
    n.red = LateralChromatic{0.001, 0.001, 0, {0, 0}, 0};
    n.blue = LateralChromatic{-0.001, -0.001, 0, {0, 0}, 0};
    Falloff f;
    for (auto& a : f.a) a = {-0.4, 0.1, 0};
    n.falloff = f;
    return n;
}

/// A smooth pattern that any good kernel reproduces.
float pattern(double u, double v) {
    return static_cast<float>(0.5 + 0.2 * std::sin(u / 9) + 0.2 * std::cos(v / 11 + u / 23));
}

RawPicture grey_raw(double level, std::array<double, 3> neutral = {0.5, 1, 0.6}) {
    RawPicture raw;
    raw.counts.create(320, 480);
    raw.filter = {{{0, 1}, {1, 2}}};
    raw.black = {{{1000, 1000}, {1000, 1000}}};
    raw.white = 61000;
    raw.xyz_to_camera = cv::Matx33d(0.7435, -0.2411, -0.0689, -0.4632, 1.2417, 0.2482, -0.0713, 0.1514, 0.642);
    raw.has_colour_matrix = true;
    raw.as_shot_neutral = neutral;
    for (int row = 0; row < 320; ++row)
        for (int i = 0; i < 480; ++i)
            raw.counts(row, i) = static_cast<std::uint16_t>(1000 + 60000 * level * neutral[raw.filter.at(row, i)]);
    return raw;
}

ResolvedFrame resolved_with(std::initializer_list<std::pair<Field, Value>> values) {
    ResolvedFrame f = neutral_start();
    for (const auto& [field, value] : values) f.fields[static_cast<int>(field)].value = value;
    return f;
}

double srgb(double v) { return v <= 0.0031308 ? 12.92 * v : 1.055 * std::pow(v, 1 / 2.4) - 0.055; }

cv::Vec3d middle_of(const Developed& d) {
    const cv::Scalar m = cv::mean(d.rgb(cv::Rect(d.rgb.cols / 2 - 8, d.rgb.rows / 2 - 8, 16, 16)));
    return {m[0] / 65535, m[1] / 65535, m[2] / 65535};
}

}  // namespace

TEST_CASE("the resampling looks where the map says, on each colour", "[render]") {
    const FrameMap map(bent_lens(), small_geometry, small_geometry);
    Planes in(cv::Size(480, 320));
    for (cv::Mat1f& c : in.channel)
        for (int row = 0; row < 320; ++row)
            for (int i = 0; i < 480; ++i) c(row, i) = pattern(i + 0.5, row + 0.5);
    for (const double scale : {1.0, 1.13}) {
        const Planes out = resample(in, PictureView(map).at_scale(scale), ColourPlanes::as_recorded, Progress());
        double largest = 0;
        for (int row = 4; row < 316; row += 3)
            for (int i = 4; i < 476; i += 3) {
                const Vec2 ideal =
                    small_geometry.middle() + (Vec2(i + 0.5, row + 0.5) - small_geometry.middle()) / scale;
                const Vec2 green = map.green(ideal);
                for (int c = 0; c < 3; ++c) {
                    const Vec2 p = map.fringe(static_cast<Channel>(c), green);
                    if (p.x() < 3 || p.y() < 3 || p.x() > 477 || p.y() > 317) continue;
                    largest = std::max<double>(largest, std::abs(out.channel[c](row, i) - pattern(p.x(), p.y())));
                }
            }
        CHECK(largest < 1e-3);
    }
}

TEST_CASE("beyond the frame the corrected picture is empty", "[render]") {
    ProfileNode pincushion = bent_lens();
    pincushion.model = LensModel(LensModelKind::radial_tangential, {0.3, 0, 0, 0, 0, 0, 0});
    const FrameMap map(pincushion, small_geometry, small_geometry);
    Planes in(cv::Size(480, 320));
    for (cv::Mat1f& c : in.channel) c.setTo(0.5f);
    const Planes kept = resample(in, PictureView(map), ColourPlanes::as_recorded, Progress());
    CHECK(kept.channel[1](0, 0) == 0);
    CHECK(kept.channel[1](160, 240) == Approx(0.5));
    const Planes filled =
        resample(in, PictureView(map).at_scale(fill_scale(PictureView(map))), ColourPlanes::as_recorded, Progress());
    for (const cv::Mat1f& c : filled.channel) CHECK(cv::countNonZero(c < 0.49f) == 0);
}

TEST_CASE("the corner of a resampled row is no special place", "[render]") {
    // Widths that are no multiple of the block.
    for (const int width : {481, 487, 470}) {
        const PictureGeometry g{width, 321, 40};
        ProfileNode straight;
        straight.focal_mm = 30;
        Planes in(cv::Size(width, 321));
        for (cv::Mat1f& c : in.channel)
            for (int row = 0; row < 321; ++row)
                for (int i = 0; i < width; ++i) c(row, i) = pattern(i, row);
        const Planes out = resample(in, PictureView(FrameMap(straight, g, g)), ColourPlanes::as_recorded, Progress());
        for (int c = 0; c < 3; ++c) CHECK(cv::norm(in.channel[c], out.channel[c], cv::NORM_INF) < 2e-5);
    }
}

TEST_CASE("demosaicing keeps even areas and smooth colours", "[render]") {
    RawPicture raw = grey_raw(0.4);
    const Planes planes =
        demosaic(linear_mosaic(raw, raw.counts, white_balance_multipliers(raw.as_shot_neutral), nullptr), raw.filter);
    for (int c = 0; c < 3; ++c) {
        CHECK(planes.channel[c](100, 100) == Approx(planes.channel[1](100, 100)).epsilon(1e-3));
        CHECK(planes.channel[c](0, 0) == Approx(planes.channel[1](100, 100)).epsilon(1e-3));
        CHECK(planes.channel[c](319, 479) == Approx(planes.channel[1](100, 100)).epsilon(1e-3));
    }
    // A horizontal ramp in all colours, for all four filters.
    for (const auto& filter : {std::array<std::array<int, 2>, 2>{{{0, 1}, {1, 2}}},
                               {{{2, 1}, {1, 0}}},
                               {{{1, 0}, {2, 1}}},
                               {{{1, 2}, {0, 1}}}}) {
        cv::Mat1f mosaic(64, 64);
        for (int row = 0; row < 64; ++row)
            for (int i = 0; i < 64; ++i) mosaic(row, i) = 0.1f + 0.01f * i;
        const Planes ramp = demosaic(mosaic, filter);
        for (const cv::Mat1f& c : ramp.channel) CHECK(c(30, 31) == Approx(0.41).epsilon(1e-4));
    }
}

TEST_CASE("blown areas stay neutral, and falloff is undone before that could matter", "[render]") {
    const RawPicture raw = grey_raw(3.0);
    RawPicture clipped = raw;
    cv::min(raw.counts, cv::Scalar(61000), clipped.counts);
    for (int row = 0; row < 320; ++row)
        for (int i = 0; i < 480; ++i) clipped.counts(row, i) = 61000;
    const cv::Vec3d white = middle_of(develop(clipped, 40, neutral_start(), std::nullopt, Progress()));
    CHECK(white[0] == Approx(1).margin(0.002));
    CHECK(white[1] == Approx(1).margin(0.002));
    CHECK(white[2] == Approx(1).margin(0.002));
}

TEST_CASE("a grey patch is developed to its own grey", "[render]") {
    const cv::Vec3d grey = middle_of(develop(grey_raw(0.2), 40, neutral_start(), std::nullopt, Progress()));
    for (int c = 0; c < 3; ++c) CHECK(grey[c] == Approx(srgb(0.2)).margin(0.002));
}

TEST_CASE("every field does what it says", "[render]") {
    const RawPicture raw = grey_raw(0.18);
    const auto middle = [&](const ResolvedFrame& f) {
        return middle_of(develop(raw, 40, f, std::nullopt, Progress()));
    };
    SECTION("exposure") {
        CHECK(middle(resolved_with({{Field::exposure, {1, ""}}}))[1] == Approx(srgb(0.36)).margin(0.002));
    }
    SECTION("contrast keeps mid-grey and spreads the rest") {
        CHECK(middle(resolved_with({{Field::contrast, {60, ""}}}))[1] == Approx(srgb(0.18)).margin(0.003));
        const cv::Vec3d bright = middle_of(
            develop(grey_raw(0.36), 40, resolved_with({{Field::contrast, {100, ""}}}), std::nullopt, Progress()));
        CHECK(bright[1] == Approx(srgb(0.72)).margin(0.004));  // slope 2: twice the light, four times the result
    }
    SECTION("temperature and tint") {
        const cv::Vec3d cold =
            middle(resolved_with({{Field::white_balance, {0, "fixed"}}, {Field::temperature, {3000, ""}}}));
        const cv::Vec3d warm =
            middle(resolved_with({{Field::white_balance, {0, "fixed"}}, {Field::temperature, {9000, ""}}}));
        CHECK(warm[0] / warm[2] > 1.3 * cold[0] / cold[2]);
        const cv::Vec3d magenta =
            middle(resolved_with({{Field::white_balance, {0, "fixed"}}, {Field::tint, {80, ""}}}));
        const cv::Vec3d green = middle(resolved_with({{Field::white_balance, {0, "fixed"}}, {Field::tint, {-80, ""}}}));
        CHECK(magenta[1] / magenta[0] < green[1] / green[0]);
    }
    SECTION("saturation") {
        RawPicture coloured = grey_raw(0.3, {0.5, 1, 0.6});
        coloured.as_shot_neutral = {0.7, 1, 0.4};
        const auto spread = [&](double s) {
            const cv::Vec3d m = middle_of(
                develop(coloured, 40, resolved_with({{Field::saturation, {s, ""}}}), std::nullopt, Progress()));
            return std::max({m[0], m[1], m[2]}) - std::min({m[0], m[1], m[2]});
        };
        CHECK(spread(-100) < 0.004);
        CHECK(spread(50) > 1.2 * spread(0));
    }
    SECTION("border") {
        const AppliedProfile profile{bent_lens(), small_geometry};
        CHECK(develop(raw, 40, resolved_with({{Field::border, {0, "scale"}}, {Field::border_scale, {1.2, ""}}}),
                      profile, Progress())
                  .scale == Approx(1.2));
        CHECK(develop(raw, 40, resolved_with({{Field::border, {0, "fill"}}}), profile, Progress()).scale ==
              Approx(fill_scale(PictureView(FrameMap(bent_lens(), small_geometry, small_geometry)))).epsilon(1e-6));
        CHECK(develop(raw, 40, neutral_start(), profile, Progress()).scale == 1);
    }
}

TEST_CASE("falloff is undone, by its strength", "[render]") {
    RawPicture raw = grey_raw(0.3);
    const FrameMap map(bent_lens(), small_geometry, small_geometry);
    for (int row = 0; row < 320; ++row)
        for (int i = 0; i < 480; ++i) {
            const int c = raw.filter.at(row, i);
            raw.counts(row, i) =
                static_cast<std::uint16_t>(1000 + 60000 * 0.3 * raw.as_shot_neutral[c] /
                                                      map.gain(static_cast<Channel>(c), Vec2(i + 0.5, row + 0.5)));
        }
    const AppliedProfile profile{bent_lens(), small_geometry};
    const auto corner_to_middle = [&](double strength) {
        const Developed d = develop(
            raw, 40,
            resolved_with({{Field::vignetting_strength, {strength, ""}}, {Field::distortion_strength, {0, ""}}}),
            profile, Progress());
        return d.rgb(8, 8)[1] / double(d.rgb(160, 240)[1]);
    };
    CHECK(corner_to_middle(100) == Approx(1).margin(0.004));
    CHECK(corner_to_middle(0) < 0.9);
    CHECK(corner_to_middle(50) > corner_to_middle(0));
    CHECK(corner_to_middle(150) > 1.02);
}

TEST_CASE("sharpening steepens edges and leaves even areas alone", "[render]") {
    RawPicture raw = grey_raw(0.2);
    for (int row = 0; row < 320; ++row)
        for (int i = 240; i < 480; ++i)
            raw.counts(row, i) = static_cast<std::uint16_t>(1000 + 2.5 * (raw.counts(row, i) - 1000));
    const Developed soft = develop(raw, 40, neutral_start(), std::nullopt, Progress());
    const Developed sharp =
        develop(raw, 40, resolved_with({{Field::sharpening_amount, {100, ""}}}), std::nullopt, Progress());
    CHECK(sharp.rgb(160, 239)[1] < soft.rgb(160, 239)[1]);
    CHECK(sharp.rgb(160, 240)[1] > soft.rgb(160, 240)[1]);
    CHECK(std::abs(sharp.rgb(160, 100)[1] - soft.rgb(160, 100)[1]) < 20);
}

TEST_CASE("noise is measured as variance against signal", "[render]") {
    cv::Mat1f signal(600, 900), noisy(600, 900);
    cv::RNG random(3);
    for (int row = 0; row < 600; ++row)
        for (int i = 0; i < 900; ++i) {
            signal(row, i) = 0.02f + 0.9f * i / 900;
            noisy(row, i) =
                signal(row, i) + static_cast<float>(random.gaussian(std::sqrt(4e-4 * signal(row, i) + 1e-5)));
        }
    const NoiseModel m = measure_noise(noisy, signal);
    CHECK(m.a == Approx(4e-4).epsilon(0.2));
    CHECK(m.sigma(0.5) == Approx(std::sqrt(2.1e-4)).epsilon(0.1));
    CHECK(m.sigma(0.05) == Approx(std::sqrt(3e-5)).epsilon(0.25));
}

TEST_CASE("noise reduction takes noise and leaves edges", "[render]") {
    RawPicture raw = grey_raw(0.2);
    cv::RNG random(4);
    for (int row = 0; row < 320; ++row)
        for (int i = 0; i < 480; ++i)
            raw.counts(row, i) = static_cast<std::uint16_t>((i >= 240 ? 1.8 : 1) * (raw.counts(row, i) - 1000) + 1000 +
                                                            random.gaussian(600));
    const auto stddev = [](const Developed& d, int channel) {
        std::vector<cv::Mat1w> planes;
        cv::split(d.rgb(cv::Rect(40, 40, 150, 240)), planes);
        cv::Scalar mean, sigma;
        cv::meanStdDev(planes[channel], mean, sigma);
        return sigma[0];
    };
    const Developed plain = develop(raw, 40, neutral_start(), std::nullopt, Progress());
    const Developed luminance =
        develop(raw, 40, resolved_with({{Field::luminance_noise, {50, ""}}}), std::nullopt, Progress());
    const Developed colour =
        develop(raw, 40, resolved_with({{Field::colour_noise, {50, ""}}}), std::nullopt, Progress());
    const Developed both =
        develop(raw, 40, resolved_with({{Field::luminance_noise, {60, ""}}, {Field::colour_noise, {60, ""}}}),
                std::nullopt, Progress());
    CHECK(stddev(luminance, 1) < 0.9 * stddev(plain, 1));
    CHECK(stddev(colour, 0) < 0.8 * stddev(plain, 0));
    CHECK(stddev(both, 1) < 0.5 * stddev(plain, 1));
    const auto step = [](const Developed& d) {
        return cv::mean(d.rgb(cv::Rect(244, 40, 8, 240)))[1] - cv::mean(d.rgb(cv::Rect(228, 40, 8, 240)))[1];
    };
    CHECK(step(both) == Approx(step(plain)).epsilon(0.05));
}

TEST_CASE("white balance multipliers make the neutral grey", "[render]") {
    const auto m = white_balance_multipliers({0.5, 1, 0.8});
    CHECK(m[0] * 0.5 == Approx(m[1]));
    CHECK(m[2] * 0.8 == Approx(m[1]));
    CHECK(std::min({m[0], m[1], m[2]}) == Approx(1));
    const auto n = neutral_of(grey_raw(0.2), 6500, 0);
    CHECK(n[1] == 1);
    CHECK(n[0] > 0.1);
}

TEST_CASE("the encoding is sRGB to a sixteenth bit", "[render]") {
    const LightEncoder encode(ColourSpace::srgb);
    for (int i = 0; i <= 1000; ++i) CHECK(std::abs(encode(i / 1000.f) - 65535 * srgb(i / 1000.0)) < 3);
    CHECK(encode(-1.f) == 0);
    CHECK(encode(5.f) == 65535);
}

TEST_CASE("development can be cancelled, and gives the same twice", "[render]") {
    Progress progress;
    progress.cancel();
    CHECK_THROWS_AS(develop(grey_raw(0.2), 40, neutral_start(), std::nullopt, progress), Cancelled);
    const ResolvedFrame all = resolved_with(
        {{Field::luminance_noise, {30, ""}}, {Field::colour_noise, {30, ""}}, {Field::sharpening_amount, {50, ""}}});
    const AppliedProfile profile{bent_lens(), small_geometry};
    const Developed a = develop(grey_raw(0.2), 40, all, profile, Progress()),
                    b = develop(grey_raw(0.2), 40, all, profile, Progress());
    CHECK(cv::norm(a.rgb, b.rgb, cv::NORM_INF) == 0);
}

TEST_CASE("a quick look is half the size and not dark", "[render]") {
    const cv::Mat3b look = quick_look(rig_frame("CH0001"));
    CHECK(look.cols == 1232);
    CHECK(look.rows == 820);
    CHECK(cv::mean(look)[1] > 60);
    CHECK(error_of([] { quick_look(std::filesystem::path("/nowhere/x.dng")); }) == "file");
}

TEST_CASE("straight rules of a specimen become straight", "[render][accuracy]") {
    // The rule near the left edge, followed down the developed picture before and after.
    const Metadata m = read_metadata(rig_frame("SP0001"));
    const RawPicture raw = read_raw(rig_frame("SP0001"));
    ProfileNode truth_like;  // the rig's lens as the Bench finds it
    truth_like.focal_mm = 35.42;
    truth_like.centre_mm = {0.121, -0.071};
    truth_like.model = LensModel(LensModelKind::radial_tangential, {-0.2022, 0.2722, -0.306, 0, 0, -0.00114, 0.00074});
    const AppliedProfile profile{truth_like, {2464, 1640, 9.4}};
    const auto sagitta = [&](const Developed& d) {
        std::vector<cv::Point2d> line;
        for (int row = 300; row < 1350; row += 10) {
            // Darkest column of the inner vertical rule, by the centre of gravity of darkness.
            double sum = 0, weight = 0;
            const int start = line.empty() ? 240 : static_cast<int>(line.back().x) - 12,
                      end = line.empty() ? 330 : start + 24;
            for (int i = start; i < end; ++i) {
                const double w = std::max(0.0, 44000.0 - d.rgb(row, i)[1]);
                sum += w * i;
                weight += w;
            }
            if (weight > 0) line.emplace_back(sum / weight, row);
        }
        const cv::Point2d a = line.front(), b = line.back();
        double largest = 0;
        for (const cv::Point2d& p : line) {
            const double t = (p.y - a.y) / (b.y - a.y);
            largest = std::max(largest, std::abs(p.x - (a.x + t * (b.x - a.x))));
        }
        return largest;
    };
    const double before = sagitta(develop(raw, m.pitch_um, neutral_start(), std::nullopt, Progress()));
    const double after = sagitta(develop(raw, m.pitch_um, neutral_start(), profile, Progress()));
    CHECK(before > 2);
    CHECK(after < 0.35 * before);
}
