// SPDX-License-Identifier: GPL-3.0-or-later
// What is computed for several samples at a time, beside its formula for one; and a picture that is developed in pieces
// beside one that is not.
#include <catch2/catch.hpp>

#include <random>

#include "base/cubic.h"
#include "frames/colour_space.h"
#include "render/develop.h"
#include "render/light_source.h"
#include "render/mosaic_rows.h"
#include "render/row_sampling.h"
#include "render/stages.h"
#include "render/tone.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

cv::Mat1f random_plane(cv::Size size, unsigned seed) {
    std::mt19937 random(seed);
    std::uniform_real_distribution<float> light(0, 1);
    cv::Mat1f out(size);
    for (float& v : out) v = light(random);
    return out;
}

float clamped(const cv::Mat1f& plane, int column, int row) {
    return plane(std::clamp(row, 0, plane.rows - 1), std::clamp(column, 0, plane.cols - 1));
}

double cubic_formula(const cv::Mat1f& plane, double x, double y) {
    const int ix = static_cast<int>(std::floor(x)), iy = static_cast<int>(std::floor(y));
    double wx[4], wy[4], sum = 0;
    cubic_weights(x - ix, wx);
    cubic_weights(y - iy, wy);
    for (int j = 0; j < 4; ++j)
        for (int i = 0; i < 4; ++i) sum += wx[i] * wy[j] * clamped(plane, ix - 1 + i, iy - 1 + j);
    return sum;
}

double linear_formula(const cv::Mat1f& plane, double x, double y) {
    x = std::clamp(x, 0.0, plane.cols - 1.001);
    y = std::clamp(y, 0.0, plane.rows - 1.001);
    const int ix = static_cast<int>(x), iy = static_cast<int>(y);
    const double fx = x - ix, fy = y - iy;
    return (1 - fy) * ((1 - fx) * plane(iy, ix) + fx * plane(iy, ix + 1)) +
           fy * ((1 - fx) * plane(iy + 1, ix) + fx * plane(iy + 1, ix + 1));
}

/// A row of places, `step` apart and rising by `slope` of that, not quite straight.
struct Line {
    std::vector<float> x, y;
    int count;

    Line(float left, float top, float step, float slope, int places) : count(places) {
        for (int k = 0; k <= (places + row_nodes_apart - 1) / row_nodes_apart; ++k) {
            const float along = step * static_cast<float>(k * row_nodes_apart);
            x.push_back(left + along + 0.3f * std::sin(along / 40));
            y.push_back(top + slope * along + 0.3f * std::cos(along / 30));
        }
    }
    RowPlaces places() const { return {x.data(), y.data(), count}; }
    cv::Point2d at(int i) const {
        const int k = i / row_nodes_apart;
        const double t = double(i % row_nodes_apart) / row_nodes_apart;
        return {x[k] + t * (x[k + 1] - x[k]), y[k] + t * (y[k + 1] - y[k])};
    }
};

}  // namespace

TEST_CASE("rows of places are sampled as the formula says, at every scale and slope", "[render]") {
    const cv::Mat1f plane = random_plane({300, 120}, 4);
    const std::array<cv::Mat1f, 3> planes{plane, random_plane({300, 120}, 5), random_plane({300, 120}, 6)};
    for (const float step : {0.45f, 0.86f, 0.97f, 1.f, 1.02f, 1.13f, 1.6f, 1.98f, 2.f, 2.03f})
        for (const float slope : {-0.3f, -0.02f, 0.f, 0.01f, 0.11f, 0.6f}) {
            INFO("step " << step << ", slope " << slope);
            // From before the plane to behind it, and a number of places that is no multiple.
            const Line line(-9, 50, step, slope, static_cast<int>(318 / step));
            std::vector<float> found(line.count), inside(line.count);
            cubic_row(plane, line.places(), std::nullopt, found.data());
            std::vector<float> three[3];
            for (auto& row : three) row.resize(line.count);
            cubic_rows(planes, line.places(), 7.f, {three[0].data(), three[1].data(), three[2].data()});
            const std::vector<float> base(line.count, 0.25f);
            linear_row(plane, line.places(), base.data(), inside.data());
            double worst = 0, worst_of_three = 0, worst_linear = 0;
            for (int i = 0; i < line.count; ++i) {
                const cv::Point2d at = line.at(i);
                worst = std::max(worst, std::abs(found[i] - cubic_formula(plane, at.x, at.y)));
                worst_linear = std::max(worst_linear, std::abs(inside[i] - 0.25 - linear_formula(plane, at.x, at.y)));
                const bool edge = std::min({std::abs(at.x + 0.5), std::abs(at.y + 0.5), std::abs(at.x - 299.5),
                                            std::abs(at.y - 119.5)}) < 1e-3;
                const bool beyond = at.x < -0.5 || at.y < -0.5 || at.x > 299.5 || at.y > 119.5;
                for (int c = 0; c < 3 && !edge; ++c)
                    worst_of_three = std::max(
                        worst_of_three, std::abs(three[c][i] - (beyond ? 7 : cubic_formula(planes[c], at.x, at.y))));
            }
            // Places of a few hundred px are known to 1e-5 px in single precision.
            CHECK(worst < 2e-4);
            CHECK(worst_of_three < 2e-4);
            CHECK(worst_linear < 2e-4);
        }
}

TEST_CASE("a row of a mosaic becomes light and green as the formulas say", "[render]") {
    std::mt19937 random(3);
    std::uniform_int_distribution<int> any(0, 65535);
    for (const int count : {1, 2, 7, 8, 31, 200}) {
        std::vector<std::uint16_t> counts(count);
        for (std::uint16_t& c : counts) c = static_cast<std::uint16_t>(any(random));
        std::vector<float> gain[2];
        for (int k = 0; k <= count / gain_nodes_apart + 1; ++k) {
            gain[0].push_back(1 + 0.01f * static_cast<float>(k));
            gain[1].push_back(2 - 0.02f * static_cast<float>(k));
        }
        const MosaicRow row{{500, 600}, {1 / 50000.f, 1 / 40000.f}, {gain[0].data(), gain[1].data()}};
        std::vector<float> light(count);
        mosaic_row(counts.data(), row, count, light.data());
        for (int i = 0; i < count; ++i) {
            const int p = i & 1, k = i / gain_nodes_apart;
            const double t = double(i % gain_nodes_apart) / gain_nodes_apart,
                         g = (1 - t) * gain[p][k] + t * gain[p][k + 1];
            CHECK(light[i] ==
                  Approx(std::min(1.0, (counts[i] - row.black[p]) * double(row.scale[p])) * g).margin(1e-6));
        }
        const cv::Mat1f mosaic = random_plane({count + 8, 9}, 8);
        const auto stride = static_cast<std::ptrdiff_t>(mosaic.step1());
        for (const bool odd : {false, true}) {
            std::vector<float> green(count);
            const float* in = mosaic.ptr<float>(4) + 4;
            green_row(in, stride, odd, count, green.data());
            for (int i = 0; i < count; ++i) {
                const float* p = in + i;
                const auto s = stride;
                if ((i % 2 == 1) == odd) {
                    CHECK(green[i] == p[0]);
                    continue;
                }
                const double across = 0.5 * (p[-1] + p[1]) + 0.25 * (2 * p[0] - p[-2] - p[2]),
                             down = 0.5 * (p[-s] + p[s]) + 0.25 * (2 * p[0] - p[-2 * s] - p[2 * s]);
                double change_across = 1e-5, change_down = 1e-5;
                for (int k = -1; k <= 1; ++k) {
                    const float *r = p + 2 * k * s, *c = p + 2 * k;
                    change_across += std::abs(r[-1] - r[1]) + std::abs(2 * r[0] - r[-2] - r[2]);
                    change_down += std::abs(c[-s] - c[s]) + std::abs(2 * c[0] - c[-2 * s] - c[2 * s]);
                }
                const double a = change_down * change_down, b = change_across * change_across;
                CHECK(green[i] == Approx((a * across + b * down) / (a + b)).margin(1e-5));
            }
        }
    }
}

TEST_CASE("a picture that is developed in pieces has no seams", "[render]") {
    // Larger than a piece each way, of fine detail everywhere.
    RawPicture raw;
    raw.counts.create(602, 2310);
    raw.filter = {{{1, 0}, {2, 1}}};
    raw.black = {{{500, 510}, {520, 530}}};
    raw.white = 60000;
    raw.xyz_to_camera = cv::Matx33d(0.7435, -0.2411, -0.0689, -0.4632, 1.2417, 0.2482, -0.0713, 0.1514, 0.642);
    raw.has_colour_matrix = true;
    raw.as_shot_neutral = {0.5, 1, 0.6};
    for (int row = 0; row < raw.counts.rows; ++row)
        for (int i = 0; i < raw.counts.cols; ++i)
            raw.counts(row, i) = static_cast<std::uint16_t>(
                2000 + 20000 * (1 + 0.5 * std::sin(i * 0.8 + row * 0.1) + 0.5 * std::cos(row * 0.7 - i * 0.05)));
    AppliedProfile profile;
    profile.reference = {2310, 602, 10};
    profile.node.focal_mm = 20;
    profile.node.model = LensModel(LensModelKind::radial_tangential, {-0.1, 0.02, 0, 0.001, 0, 0, 0});
    profile.node.red = LateralChromatic{0.001, 0.001, 0, {0, 0}, 0};
    profile.node.blue = LateralChromatic{-0.0005, -0.001, 0, {0, 0}, 0};
    Falloff falloff;
    for (auto& a : falloff.a) a = {-0.4, 0.1, 0};
    profile.node.falloff = falloff;
    const auto pinned = [](std::initializer_list<std::pair<Field, Value>> values) {
        ResolvedFrame f = neutral_start();
        for (const auto& [field, value] : values) f.fields[static_cast<int>(field)].value = value;
        return f;
    };
    const ResolvedFrame settings[] = {
        pinned({}), pinned({{Field::roll, {1.5, ""}}, {Field::contrast, {20, ""}}}),
        pinned({{Field::sharpening_amount, {80, ""}},
                {Field::sharpening_radius, {1.3, ""}},
                {Field::fringe_suppression, {50, ""}}}),
        pinned({{Field::crop, {0, "largest as frame"}}, {Field::distortion_strength, {0, ""}}})};
    for (const ResolvedFrame& f : settings) {
        const CaptureGeometry taken{10, 20, 1};
        const Developed found = develop(raw, taken, f, profile, Progress());
        const Framing framing = framing_of(f, profile, raw.counts.size(), taken);
        const RawLight light(raw, counts_for(raw, f), f, framing);
        const cv::Rect kept = framing.kept;
        Planes whole =
            resample(light.part({{0, 0}, light.size()}, Progress()), Sampling::all_of(light.size()), framing.view,
                     {double(kept.x), double(kept.y), 1, kept.size()}, ColourPlanes::aligned, Progress());
        apply_defringing(whole, defringing_settings(f));
        tone(whole, cv::Matx33f(found.camera_to_srgb), tone_settings(f, {}));
        sharpen_by(whole, f, nullptr);
        const cv::Mat3w wanted = encoded(whole);
        REQUIRE(found.rgb.size() == wanted.size());
        // Places are known to 2e-4 px in single precision at the right edge, and dark light is encoded 13 times steeper
        // than bright, so that both what is encoded and the light itself have to differ. A fringe is one or is none, so
        // that the last digit of light can decide; but not more often than this.
        const auto light_of = [](std::uint16_t v) { return decode_light(ColourSpace::srgb, v / 65535.0); };
        const auto differ = [&](std::uint16_t a, std::uint16_t b) {
            return std::abs(a - b) > 65535 / 400 && std::abs(light_of(a) - light_of(b)) > 1e-3;
        };
        long long apart = 0;
        for (int row = 0; row < wanted.rows; ++row)
            for (int i = 0; i < wanted.cols; ++i)
                for (int c = 0; c < 3; ++c) apart += differ(wanted(row, i)[c], found.rgb(row, i)[c]);
        CHECK(apart <= (defringing_settings(f).any() ? static_cast<long long>(wanted.total()) / 10000 : 0));
        CHECK(cv::norm(wanted, found.rgb, cv::NORM_L1) / static_cast<double>(wanted.total() * 3) < 1);
    }
}
