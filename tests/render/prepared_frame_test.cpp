// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/prepared_frame.h"

#include <catch2/catch.hpp>
#include <opencv2/imgproc.hpp>

#include "render/develop.h"
#include "render/pixel_reading.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

Value word(const char* t) { return {0, t}; }

/// A rig frame with everything that moves places.
struct PreparedScene {
    Metadata metadata = read_metadata(rig_frame("SP0005"));
    RawPicture raw = read_raw(rig_frame("SP0005"));
    CaptureGeometry taken{metadata.pitch_um, metadata.focal_mm, 1};
    AppliedProfile profile{node(), {raw.counts.cols, raw.counts.rows, metadata.pitch_um}};

    ProfileNode node() const {
        ProfileNode n;
        n.focal_mm = 35;
        n.model = LensModel(LensModelKind::radial_tangential, {-0.1, 0.02, 0, 0, 0, 0, 0});
        n.red = LateralChromatic{0.0005, 0.0003, 0, {0, 0}, 0};
        n.blue = LateralChromatic{-0.0004, 0, 0, {0, 0}, 0};
        Falloff f;
        for (auto& a : f.a) a = {-0.3, 0.05, 0};
        n.falloff = f;
        return n;
    }
};

ResolvedFrame fields(std::initializer_list<std::pair<Field, Value>> values) {
    ResolvedFrame f = neutral_start();
    for (const auto& [field, value] : values) f.fields[static_cast<int>(field)].value = value;
    return f;
}

/// RMS of the difference over the inner part, in shares of white.
double difference(const cv::Mat3w& a, const cv::Mat3w& b) {
    const cv::Rect inner(4, 4, a.cols - 8, a.rows - 8);
    return cv::norm(a(inner), b(inner), cv::NORM_L2) / std::sqrt(3.0 * inner.area()) / 65535;
}

}  // namespace

TEST_CASE("a part at full size looks as it is developed", "[render][look]") {
    const PreparedScene s;
    const PreparedFrame prepared(s.raw, s.taken);
    const cv::Rect part(s.raw.counts.cols - 400, 37, 380, 300);
    for (const ResolvedFrame& f : {fields({{Field::sharpening_amount, {60, ""}}}),
                                   fields({{Field::roll, {2, ""}},
                                           {Field::pitch, {5, ""}},
                                           {Field::border, word("fill")},
                                           {Field::exposure, {0.5, ""}}}),
                                   fields({{Field::auto_levels, word("on")},
                                           {Field::hot_pixel_repair, word("on")},
                                           {Field::red_at_corner, {1, ""}}})}) {
        const Developed whole = develop(s.raw, s.taken, f, s.profile, Progress());
        const PreparedFrame::Look look =
            prepared.look(f, s.profile, {double(part.x), double(part.y), 1, part.size()}, Progress());
        const bool levels = f[Field::auto_levels].value.text == "on";
        CHECK(difference(look.rgb, whole.rgb(part).clone()) < (levels ? 0.01 : 5e-4));
        CHECK(cv::countNonZero(look.empty) == 0);
    }
}

TEST_CASE("a reduced look has the light and the places of the developed picture", "[render][look]") {
    const PreparedScene s;
    const PreparedFrame prepared(s.raw, s.taken);
    const ResolvedFrame f =
        fields({{Field::roll, {2, ""}}, {Field::hand_distortion, {1, ""}}, {Field::border, word("fill")}});
    const Developed whole = develop(s.raw, s.taken, f, s.profile, Progress());
    const double step = 4;
    const cv::Size size(static_cast<int>(whole.rgb.cols / step), static_cast<int>(whole.rgb.rows / step));
    const PreparedFrame::Look look = prepared.look(f, s.profile, {0, 0, step, size}, Progress());
    cv::Mat3w small;
    cv::resize(whole.rgb(cv::Rect(0, 0, size.width * 4, size.height * 4)), small, size, 0, 0, cv::INTER_AREA);
    cv::Mat3w calm_look, calm_small;  // means of encoded values are not encoded means where there is fine detail
    cv::blur(look.rgb, calm_look, {5, 5});
    cv::blur(small, calm_small, {5, 5});
    CHECK(difference(calm_look, calm_small) < 0.012);
}

TEST_CASE("empty places are told, and a crop is what is exported", "[render][look]") {
    const PreparedScene s;
    const PreparedFrame prepared(s.raw, s.taken);
    const cv::Size size(s.raw.counts.cols / 8, s.raw.counts.rows / 8);
    const auto empty = [&](const ResolvedFrame& f) {
        return cv::countNonZero(prepared.look(f, std::nullopt, {0, 0, 8, size}, Progress()).empty);
    };
    CHECK(empty(fields({})) == 0);
    const int turned = empty(fields({{Field::roll, {5, ""}}}));
    CHECK(turned > 500);
    CHECK(empty(fields({{Field::roll, {5, ""}}, {Field::border, word("fill")}})) == 0);
    const Developed cropped =
        develop(s.raw, s.taken, fields({{Field::roll, {5, ""}}, {Field::crop, word("largest as frame")}}), std::nullopt,
                Progress());
    CHECK(cropped.rgb.size() == cropped.kept.size());
    CHECK(cropped.kept.width < s.raw.counts.cols);
    CHECK(double(cropped.kept.width) / cropped.kept.height ==
          Approx(double(s.raw.counts.cols) / s.raw.counts.rows).epsilon(0.003));
    const Developed at =
        develop(s.raw, s.taken, fields({{Field::crop, word("at 10 20 50 40")}}), std::nullopt, Progress());
    CHECK(at.kept.x == Approx(0.1 * s.raw.counts.cols).margin(1));
    CHECK(at.rgb.rows == Approx(0.4 * s.raw.counts.rows).margin(1));
}

TEST_CASE("a picture in which nothing moves is cropped to all of itself", "[render][look]") {
    const PreparedScene s;
    for (const char* crop : {"none", "largest", "largest as frame"})
        CHECK(framing_of(fields({{Field::crop, word(crop)}}), std::nullopt, s.raw.counts.size(), s.taken).kept ==
              cv::Rect({0, 0}, s.raw.counts.size()));
}

TEST_CASE("a picture that would show the horizon can be scaled up until it does not", "[render][look]") {
    const PreparedScene s;
    ProfileNode wide = s.node();
    wide.focal_mm = 12;
    const AppliedProfile twelve{wide, s.profile.reference};
    const auto framed = [&](const char* border, double scale) {
        const ResolvedFrame f =
            fields({{Field::pitch, {60, ""}}, {Field::border, word(border)}, {Field::border_scale, {scale, ""}}});
        return framing_of(f, twelve, s.raw.counts.size(), s.taken);
    };
    CHECK_FALSE(sentence_of([&] { framed("keep", 1); }).empty());
    CHECK_FALSE(sentence_of([&] { framed("scale", 1); }).empty());
    CHECK(sentence_of([&] { framed("scale", 2); }).empty());
}

TEST_CASE("angles and crops are those of the picture as it is held", "[render][look]") {
    const PreparedScene s;
    const CaptureGeometry portrait{s.taken.pitch_um, s.taken.focal_mm, 6};
    const ResolvedFrame f = fields({{Field::pitch, {8, ""}}, {Field::crop, word("at 0 0 100 30")}});
    // Orientation 6: the top of what is held is the left of the sensor.
    const Framing framing = framing_of(f, std::nullopt, s.raw.counts.size(), portrait);
    CHECK(framing.kept.x == 0);
    CHECK(framing.kept.height == s.raw.counts.rows);
    CHECK(framing.kept.width == Approx(0.3 * s.raw.counts.cols).margin(1));
    // Pointed upwards, what is up was recorded too narrow: it is spread, so the source of a place at the upper edge
    // lies nearer to the middle line than the place.
    const double middle = s.raw.counts.rows / 2.0;
    const auto up = framing.view.green({10, middle + 400}),
               down = framing.view.green({s.raw.counts.cols - 10.0, middle + 400});
    REQUIRE(up);
    REQUIRE(down);
    CHECK(up->y() - middle < 400);
    CHECK(down->y() - middle > 400);
}

TEST_CASE("what cannot be shown is said in one sentence", "[render][look]") {
    const PreparedScene s;
    const PreparedFrame prepared(s.raw, s.taken);
    ProfileNode wide = s.node();
    wide.focal_mm = 12;
    const AppliedProfile twelve{wide, s.profile.reference};
    CHECK(error_of([&] {
              prepared.look(fields({{Field::pitch, {60, ""}}}), twelve, {0, 0, 8, cv::Size(100, 80)}, Progress());
          }) == "input");
    const ResolvedFrame nothing = fields({{Field::shift_across, {50, ""}},
                                          {Field::shift_down, {50, ""}},
                                          {Field::yaw, {60, ""}},
                                          {Field::crop, word("largest")}});
    CHECK(error_of([&] { prepared.look(nothing, twelve, {0, 0, 8, cv::Size(100, 80)}, Progress()); }) == "input");
}

TEST_CASE("marks lie where the corrected picture shows the lost samples", "[render][look][marks]") {
    PreparedScene s;
    const cv::Rect clipped(s.raw.counts.cols / 2 + 100, s.raw.counts.rows / 2 - 60, 60, 40);
    s.raw.counts.setTo(static_cast<ushort>(s.raw.white / 2));
    s.raw.counts(clipped).setTo(static_cast<ushort>(s.raw.white));
    const PreparedFrame prepared(s.raw, s.taken);
    for (const double step : {1.0, 4.0}) {
        const Sampling at{
            0, 0, step,
            cv::Size(static_cast<int>(s.raw.counts.cols / step), static_cast<int>(s.raw.counts.rows / step))};
        const auto look = prepared.look(neutral_start(), s.profile, at, Progress(), {.marks = true});
        int inside = 0, wrong = 0, all = 0;
        for (int row = 0; row < at.size.height; ++row)
            for (int i = 0; i < at.size.width; ++i) {
                const auto beneath = look.framing->view.green({(i + 0.5) * step, (row + 0.5) * step});
                if (!beneath) continue;
                const double x = std::max(clipped.x - beneath->x(), beneath->x() - clipped.br().x),
                             y = std::max(clipped.y - beneath->y(), beneath->y() - clipped.br().y);
                const double away = std::max(x, y);  // px of the frame, negative inside
                const bool marked = (look.marks(row, i) & 7) == 7;
                all += marked;
                if (away < -2 * step - 2) ++inside, wrong += !marked;
                if (away > 2 * step + 2) wrong += (look.marks(row, i) & 7) != 0;
            }
        INFO("step " << step);
        CHECK(inside > 40);
        CHECK(wrong == 0);
        CHECK(all * step * step == Approx(clipped.area()).epsilon(0.35));
    }
    CHECK(prepared.samples_at({clipped.x + 10.5, clipped.y + 10.5}).size() == 4);
    CHECK(prepared.samples_at({-1, 5}).empty());
}

TEST_CASE("figures of a patch are the mean and deviation of what was recorded there", "[render][look]") {
    PreparedScene s;
    cv::RNG random(3);
    const double black = s.raw.black.at(0, 0);
    for (int row = 0; row < s.raw.counts.rows; ++row)
        for (int i = 0; i < s.raw.counts.cols; ++i)
            s.raw.counts(row, i) = static_cast<ushort>(black + 4000 + random.gaussian(50));
    const PreparedFrame prepared(s.raw, s.taken);
    const cv::Rect area(200, 100, 120, 80);
    const PixelReading r = read_pixels(prepared, neutral_start(), std::nullopt, area, Progress());
    CHECK(r.patch());
    for (std::size_t c = 0; c < 3; ++c) {
        CHECK(r.counts[c].mean == Approx(4000).margin(5));
        CHECK(r.counts[c].deviation == Approx(50).epsilon(0.1));
    }
    const std::string words = in_words(r, ColourSpace::srgb, {200, 100});
    CHECK_THAT(words, Catch::Contains("Patch of 120 × 80 px at 200, 100") && Catch::Contains("L*"));
    CHECK_THROWS_WITH(read_pixels(prepared, neutral_start(), std::nullopt, {-1, 0, 2, 2}, Progress()),
                      Catch::Contains("outside the picture"));
}
