// SPDX-License-Identifier: GPL-3.0-or-later
// Developments that know the measured noise of the body.
#include "render/body_noise.h"

#include <catch2/catch.hpp>
#include <random>

#include "render/develop.h"
#include "render/prepared_frame.h"
#include "render/sharpening_noise.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

constexpr std::array<double, 6> known_terms{0.0005, 5e-6, 0.0005, 5e-6, 0.0005, 5e-6};
const CaptureGeometry noise_taken{4, 35, 1};

/// A Bayer frame of this light (share of white), with noise of these terms.
RawPicture noisy_frame(const std::function<double(int, int)>& light, bool known, unsigned seed = 1) {
    RawPicture raw;
    raw.filter = {{0, 1}, {1, 2}};
    raw.black = SitePattern<double>(1000);
    raw.white = 16000;
    raw.as_shot_neutral = {0.5, 1, 0.625};
    raw.counts.create(300, 480);
    std::mt19937_64 random(seed);
    std::normal_distribution<double> normal;
    for (int row = 0; row < raw.counts.rows; ++row)
        for (int i = 0; i < raw.counts.cols; ++i) {
            const std::size_t c = static_cast<std::size_t>(raw.filter.at(row, i));
            const double signal = light(row, i) * raw.as_shot_neutral[c];
            const double value =
                signal + std::sqrt(known_terms[2 * c] * signal + known_terms[2 * c + 1]) * normal(random);
            raw.counts(row, i) = cv::saturate_cast<std::uint16_t>(1000 + 15000 * value);
        }
    if (known) raw.noise = known_terms;
    return raw;
}

ResolvedFrame noise_fields(std::initializer_list<std::pair<Field, double>> values) {
    ResolvedFrame f = neutral_start();
    for (const auto& [field, value] : values) f.fields[static_cast<std::size_t>(field)].value = {value, ""};
    return f;
}

cv::Mat1f green_of(const RawPicture& raw, const ResolvedFrame& f) {
    const Developed d = develop(raw, noise_taken, f, std::nullopt, Progress());
    cv::Mat1f out;
    cv::Mat1w green;
    cv::extractChannel(d.rgb, green, 1);
    green(cv::Rect(40, 40, green.cols - 80, green.rows - 80)).convertTo(out, CV_32F, 1.0 / 65535);
    return out;
}

double noise_spread(const cv::Mat1f& values) {
    cv::Scalar mean, deviation;
    cv::meanStdDev(values, mean, deviation);
    return deviation[0];
}

double even_light(int, int) { return 0.2; }
/// Fine cloth: single pixels differ by a few percent at random, as noise does.
double cloth(int row, int column) {
    std::mt19937_64 random(static_cast<std::uint64_t>(row / 2) * 7919 + static_cast<std::uint64_t>(column / 2));
    return 0.2 * (1 + 0.25 * (std::uniform_real_distribution<double>()(random) - 0.5));
}

}  // namespace

TEST_CASE("an even area is as quiet with the measured noise as with that of the frame", "[render][noise]") {
    const ResolvedFrame strong = noise_fields({{Field::luminance_noise, 60}, {Field::colour_noise, 60}});
    const double plain = noise_spread(green_of(noisy_frame(even_light, true), neutral_start()));
    const double known = noise_spread(green_of(noisy_frame(even_light, true), strong)),
                 own = noise_spread(green_of(noisy_frame(even_light, false), strong));
    CHECK(known < 0.35 * plain);
    CHECK(known == Approx(own).epsilon(0.15));
}

TEST_CASE("cloth that looks like noise keeps more of itself when the noise is known", "[render][noise]") {
    const ResolvedFrame some = noise_fields({{Field::luminance_noise, 40}});
    RawPicture clean = noisy_frame(cloth, false);
    for (int row = 0; row < clean.counts.rows; ++row)
        for (int i = 0; i < clean.counts.cols; ++i)
            clean.counts(row, i) = cv::saturate_cast<std::uint16_t>(
                1000 +
                15000 * cloth(row, i) * clean.as_shot_neutral[static_cast<std::size_t>(clean.filter.at(row, i))]);
    const cv::Mat1f truth = green_of(clean, neutral_start());
    const auto error = [&](bool known) { return cv::norm(green_of(noisy_frame(cloth, known), some), truth); };
    CHECK(error(true) < 0.9 * error(false));
}

TEST_CASE("the noise of each scale is that of the interpolated frame", "[render][noise]") {
    const RawPicture raw = noisy_frame(even_light, true);
    const auto scales = scale_noise_of(raw, {2, 1, 1.6});
    REQUIRE(scales);
    CHECK(scales->luminance.size() == 3);
    CHECK(scales->red.size() == 5);
    for (std::size_t k = 1; k < 3; ++k) CHECK(scales->luminance[k].sigma(0.2) < scales->luminance[k - 1].sigma(0.2));
    CHECK(scale_noise_of(raw, {2, 1, 1.6}) == scales);  // kept
    RawPicture unknown = raw;
    unknown.noise.reset();
    CHECK(scale_noise_of(unknown, {2, 1, 1.6}) == nullptr);
    const std::array<double, 6> estimated = estimated_noise(raw);
    CHECK(std::sqrt(estimated[2] * 0.2 + estimated[3]) ==
          Approx(std::sqrt(known_terms[2] * 0.2 + known_terms[3])).epsilon(0.15));
}

TEST_CASE("sharpening above the noise leaves noise alone and sharpens edges", "[render][noise]") {
    const auto edge = [](int, int column) { return column < 240 ? 0.1 : 0.5; };
    for (const bool known : {true, false}) {
        INFO("known " << known);
        const ResolvedFrame plain = neutral_start(),
                            sharp = noise_fields({{Field::sharpening_amount, 120}, {Field::sharpening_radius, 1}}),
                            above = noise_fields({{Field::sharpening_amount, 120},
                                                  {Field::sharpening_radius, 1},
                                                  {Field::sharpening_sigmas, 4}});
        const RawPicture flat = noisy_frame(even_light, known);
        const double untouched = noise_spread(green_of(flat, plain));
        CHECK(noise_spread(green_of(flat, sharp)) > 1.5 * untouched);
        CHECK(noise_spread(green_of(flat, above)) < 1.15 * untouched);
        const RawPicture step = noisy_frame(edge, known);
        const auto steepest = [&](const ResolvedFrame& f) {
            cv::Mat1f mean;
            cv::reduce(green_of(step, f), mean, 0, cv::REDUCE_AVG);
            double most = 0;
            for (int i = 1; i < mean.cols; ++i) most = std::max(most, double(mean(0, i) - mean(0, i - 1)));
            return most;
        };
        CHECK(steepest(above) > 0.8 * steepest(sharp));
        CHECK(steepest(above) > 1.1 * steepest(plain));
    }
}

TEST_CASE("a look at every pixel is sharpened as the developed picture is", "[render][noise][look]") {
    const ResolvedFrame f = noise_fields({{Field::sharpening_amount, 100},
                                          {Field::sharpening_sigmas, 3},
                                          {Field::luminance_noise, 30},
                                          {Field::exposure, 0.5}});
    for (const bool known : {true, false}) {
        const RawPicture raw = noisy_frame(cloth, known);
        const cv::Mat3w whole = develop(raw, noise_taken, f, std::nullopt, Progress()).rgb;
        const PreparedFrame prepared(raw, noise_taken);
        const cv::Mat3w look = prepared.look(f, std::nullopt, {0, 0, 1, whole.size()}, Progress()).rgb;
        CHECK(cv::norm(look, whole, cv::NORM_INF) <= 4);
    }
}
