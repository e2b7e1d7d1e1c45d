// SPDX-License-Identifier: GPL-3.0-or-later
// The development of frames whose samples are no Bayer mosaic, against the light that fell.
#include "render/sample_layouts.h"

#include <catch2/catch.hpp>
#include <random>

#include "render/demosaic_six.h"
#include "render/develop.h"
#include "render/hot_pixels.h"
#include "render/prepared_frame.h"
#include "render/quick_look.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

constexpr std::array<double, 3> neutral{0.5, 1, 0.625};

/// Grey light with detail in every direction.
double grey(double u, double v) {
    return 0.4 + 0.12 * std::sin(u / 5) + 0.12 * std::cos(v / 4) + 0.1 * std::sin((u + v) / 6);
}

SitePattern<int> six() {
    return {6, [](int row, int column) {
                const char* rows[] = {"GBGGRG", "RGRBGB", "GBGGRG", "GRGGBG", "BGBRGR", "GRGGBG"};
                return static_cast<int>(std::string("RGB").find(rows[row][column]));
            }};
}

RawPicture photographed(SampleLayout layout, cv::Size size = {306, 204}) {
    RawPicture raw;
    raw.layout = layout;
    raw.white = 60000;
    raw.black = SitePattern<double>(1000.0);
    raw.interpolated_black = {900, 1000, 1100};
    raw.filter = layout == SampleLayout::six_by_six ? six() : SitePattern<int>(1);
    if (raw.has_colours()) {
        raw.xyz_to_camera = cv::Matx33d(0.7435, -0.2411, -0.0689, -0.4632, 1.2417, 0.2482, -0.0713, 0.1514, 0.642);
        raw.has_colour_matrix = true;
        raw.as_shot_neutral = neutral;
    }
    raw.counts.create(size);
    if (layout == SampleLayout::interpolated) raw.interpolated.create(size);
    for (int row = 0; row < size.height; ++row)
        for (int i = 0; i < size.width; ++i) {
            const double light = grey(i + 0.5, row + 0.5);
            if (layout == SampleLayout::interpolated)
                for (int c = 0; c < 3; ++c) {
                    const double black = raw.interpolated_black[static_cast<std::size_t>(c)];
                    raw.interpolated(row, i)[c] = static_cast<std::uint16_t>(
                        std::lround(black + light * neutral[static_cast<std::size_t>(c)] * (raw.white - black)));
                }
            const double share = raw.has_colours() ? neutral[static_cast<std::size_t>(raw.filter.at(row, i))] : 1;
            raw.counts(row, i) = static_cast<std::uint16_t>(std::lround(1000 + light * share * 59000));
        }
    return raw;
}

/// RMS and largest error of all three planes, without a border.
std::pair<double, double> errors(const Planes& planes) {
    double sum = 0, n = 0, worst = 0;
    constexpr int border = 8;
    for (const cv::Mat1f& plane : planes.channel)
        for (int row = border; row < plane.rows - border; ++row)
            for (int i = border; i < plane.cols - border; ++i) {
                const double e = plane(row, i) - grey(i + 0.5, row + 0.5);
                sum += e * e;
                worst = std::max(worst, std::abs(e));
                ++n;
            }
    return {std::sqrt(sum / n), worst};
}

const CaptureGeometry taken{4, 35, 1};
constexpr std::array<double, 3> multiplier{2, 1, 1.6};
constexpr std::array<SampleLayout, 3> layouts{SampleLayout::six_by_six, SampleLayout::monochrome,
                                              SampleLayout::interpolated};

ResolvedFrame layout_fields(std::initializer_list<std::pair<Field, Value>> values) {
    ResolvedFrame f = neutral_start();
    for (const auto& [field, value] : values) f.fields[static_cast<int>(field)].value = value;
    return f;
}

}  // namespace

TEST_CASE("light of every layout is found again", "[render][layouts]") {
    for (const SampleLayout layout : layouts) {
        INFO("layout " << static_cast<int>(layout));
        const RawPicture raw = photographed(layout);
        const std::array<double, 3> m = raw.has_colours() ? multiplier : std::array<double, 3>{1, 1, 1};
        const Planes planes = linear_planes(raw, raw.counts, m, nullptr, nullptr, {{0, 0}, raw.counts.size()});
        const auto [rms, largest] = errors(planes);
        CHECK(rms < (layout == SampleLayout::six_by_six ? 0.006 : 1e-4));
        CHECK(largest < (layout == SampleLayout::six_by_six ? 0.04 : 2e-4));
    }
}

TEST_CASE("a part of a 6 x 6 mosaic is interpolated as the whole", "[render][layouts]") {
    const RawPicture raw = photographed(SampleLayout::six_by_six);
    const Planes whole = linear_planes(raw, raw.counts, multiplier, nullptr, nullptr, {{0, 0}, raw.counts.size()});
    const cv::Rect part(62, 40, 120, 90), inner(12, 12, 96, 66);
    const Planes own = linear_planes(raw, raw.counts, multiplier, nullptr, nullptr, part);
    for (std::size_t c = 0; c < 3; ++c)
        CHECK(cv::norm(own.channel[c](inner), whole.channel[c](inner + part.tl()), cv::NORM_INF) < 1e-6);
}

TEST_CASE("6 x 6 interpolation follows an edge without colour", "[render][layouts]") {
    // A slanted edge between dark and light grey.
    cv::Mat1f mosaic(180, 240);
    for (int row = 0; row < mosaic.rows; ++row)
        for (int i = 0; i < mosaic.cols; ++i) {
            const double across = i + 0.5 - 120 - 0.15 * (row + 0.5 - 90);
            mosaic(row, i) = static_cast<float>(0.1 + 0.7 / (1 + std::exp(-across / 0.6)));
        }
    const Planes planes = demosaic_six(mosaic, six());
    double colour = 0, error = 0;
    for (int row = 10; row < mosaic.rows - 10; ++row)
        for (int i = 10; i < mosaic.cols - 10; ++i) {
            for (const int c : {0, 2})
                colour = std::max(colour, std::abs(double(planes.channel[c](row, i)) - planes.channel[1](row, i)));
            error = std::max(error, std::abs(double(planes.channel[1](row, i)) - mosaic(row, i)));
        }
    CHECK(error < 0.2);
    CHECK(colour < 0.2);
}

TEST_CASE("means over cells are those of the light", "[render][layouts]") {
    for (const SampleLayout layout : layouts) {
        INFO("layout " << static_cast<int>(layout));
        const RawPicture raw = photographed(layout, {307, 205});
        const std::array<double, 3> m = raw.has_colours() ? multiplier : std::array<double, 3>{1, 1, 1};
        const Planes cells = light_in_cells(raw, raw.counts, m, 4);
        REQUIRE(cells.size() == cv::Size(76, 51));
        for (const cv::Mat1f& plane : cells.channel)
            for (int row = 3; row < 48; row += 5)
                for (int i = 3; i < 73; i += 7) {
                    double mean = 0;
                    for (int k = 0; k < 16; ++k) mean += grey(4 * i + k % 4 + 0.5, 4 * row + k / 4 + 0.5) / 16;
                    CHECK(plane(row, i) == Approx(mean).margin(layout == SampleLayout::six_by_six ? 0.01 : 1e-4));
                }
    }
}

TEST_CASE("black levels of a Bayer mosaic may repeat every six samples", "[render][layouts]") {
    RawPicture raw = photographed(SampleLayout::monochrome);
    raw.layout = SampleLayout::bayer;
    raw.filter = {{0, 1}, {1, 2}};
    raw.black = {6, [](int row, int column) { return 1000.0 + 40 * column + 90 * row; }};
    for (int row = 0; row < raw.counts.rows; ++row)
        for (int i = 0; i < raw.counts.cols; ++i) {
            const double black = raw.black.at(row, i);
            raw.counts(row, i) =
                static_cast<std::uint16_t>(std::lround(black + grey(i + 0.5, row + 0.5) * (raw.white - black)));
        }
    const Planes cells = light_in_cells(raw, raw.counts, {1, 1, 1}, 6);
    for (int row = 2; row < 30; row += 3)
        for (int i = 2; i < 48; i += 5) {
            double mean = 0;
            for (int k = 0; k < 36; ++k) mean += grey(6 * i + k % 6 + 0.5, 6 * row + k / 6 + 0.5) / 36;
            CHECK(cells.channel[1](row, i) == Approx(mean).margin(0.004));
        }
    CHECK(cv::norm(without_hot_pixels(raw), raw.counts, cv::NORM_INF) == 0);
}

TEST_CASE("a developed frame is grey in every layout", "[render][layouts]") {
    for (const SampleLayout layout : layouts) {
        INFO("layout " << static_cast<int>(layout));
        const RawPicture raw = photographed(layout);
        PictureForm form;
        form.space = ColourSpace::linear;
        const Developed d = develop(raw, taken, layout_fields({}), std::nullopt, Progress(), form);
        double worst = 0;
        for (int row = 10; row < 190; row += 3)
            for (int i = 10; i < 290; i += 3)
                for (int c = 0; c < 3; ++c)
                    worst = std::max(worst, std::abs(d.rgb(row, i)[c] / 65535.0 - grey(i + 0.5, row + 0.5)));
        CHECK(worst < (layout == SampleLayout::six_by_six ? 0.05 : 2e-4));
        // Inspect shows the same at full size and in cells.
        const PreparedFrame prepared(raw, taken);
        const Sampling small{0, 0, 4, {76, 51}};
        const cv::Mat3w look = prepared.look(layout_fields({}), std::nullopt, small, Progress()).rgb;
        const cv::Mat3w whole = develop(raw, taken, layout_fields({}), std::nullopt, Progress()).rgb;
        CHECK(std::abs(int(look(25, 40)[1]) - int(whole(102, 162)[1])) < 4000);
        CHECK(quick_look(raw).cols == 306 / (layout == SampleLayout::six_by_six ? 6 : 2));
        CHECK(prepared.light(layout_fields({}), std::nullopt).before.clipped_percent[1] == 0);
    }
}

TEST_CASE("a monochrome frame has no colour, whatever is pinned", "[render][layouts]") {
    const RawPicture raw = photographed(SampleLayout::monochrome);
    for (const ResolvedFrame& f :
         {layout_fields(
              {{Field::white_balance, {0, "fixed"}}, {Field::temperature, {3000, ""}}, {Field::tint, {20, ""}}}),
          layout_fields({{Field::saturation, {40, ""}}}),
          layout_fields({{Field::luminance_noise, {30, ""}}, {Field::colour_noise, {40, ""}}})}) {
        const Developed d = develop(raw, taken, f, std::nullopt, Progress());
        int worst = 0;
        for (const cv::Vec3w& v : d.rgb) worst = std::max({worst, std::abs(v[0] - v[1]), std::abs(v[2] - v[1])});
        CHECK(worst <= 1);
    }
}

TEST_CASE("hot samples of a 6 x 6 mosaic are found, and no others", "[render][layouts]") {
    RawPicture raw = photographed(SampleLayout::six_by_six);
    std::mt19937 random(4);
    std::normal_distribution<double> noise(0, 60);
    for (int row = 0; row < raw.counts.rows; ++row)
        for (int i = 0; i < raw.counts.cols; ++i)
            raw.counts(row, i) =
                static_cast<std::uint16_t>(std::lround(raw.counts(row, i) * 0.1 + 900 + noise(random)));
    const cv::Mat1w clean = raw.counts.clone();
    std::vector<cv::Point> hot;
    for (int k = 0; k < 40; ++k) hot.emplace_back(7 + 7 * k, 5 + (31 * k) % 190);
    for (const cv::Point& p : hot) raw.counts(p) = 40000;
    const cv::Mat1w repaired = without_hot_pixels(raw);
    int missed = 0, wrong = 0;
    for (int row = 0; row < raw.counts.rows; ++row)
        for (int i = 0; i < raw.counts.cols; ++i) {
            const bool is_hot = std::find(hot.begin(), hot.end(), cv::Point(i, row)) != hot.end();
            if (is_hot) missed += std::abs(repaired(row, i) - clean(row, i)) > 1500;
            if (!is_hot) wrong += repaired(row, i) != clean(row, i);
        }
    CHECK(missed == 0);
    CHECK(wrong <= 2);
}
