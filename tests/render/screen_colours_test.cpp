// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/screen_colours.h"

#include <catch2/catch.hpp>
#include <cmath>
#include <numeric>

#include "base/error.h"
#include "frames/colour_space.h"
#include "frames/icc_tags.h"
#include "render/lost_marks.h"
#include "support/screen_profiles.h"

using namespace optrel;
using namespace optrel::test;

namespace {

/// Colours over all of ROMM RGB that real surfaces can have, many of them dark, as linear sRGB.
std::vector<cv::Vec3f> colours_in_romm(int count) {
    const cv::Matx33f back = srgb_to(ColourSpace::romm).inv();
    cv::RNG random(5);
    std::vector<cv::Vec3f> out;
    while (static_cast<int>(out.size()) < count) {
        const auto level = [&] { return static_cast<float>(std::pow(random.uniform(0.0, 1.0), 2.2)); };
        const cv::Vec3f grey = cv::Vec3f::all(level()), colour(level(), level(), level());
        out.push_back(back * (0.5f * grey + 0.5f * colour));
    }
    return out;
}

Planes planes_of(const std::vector<cv::Vec3f>& colours, int width) {
    Planes out(cv::Size(width, static_cast<int>(colours.size()) / width));
    for (int i = 0; i < out.size().area(); ++i)
        for (int c = 0; c < 3; ++c)
            out.channel[static_cast<std::size_t>(c)](i / width, i % width) = colours[static_cast<std::size_t>(i)][c];
    return out;
}

std::vector<cv::Vec3w> values_of(const cv::Mat3w& picture) { return {picture.begin(), picture.end()}; }

}  // namespace

TEST_CASE("light becomes values of a screen as Little CMS makes them", "[render][screen]") {
    const auto colours = colours_in_romm(20000);
    const auto [name, profile] =
        GENERATE(std::pair<const char*, std::string>("sRGB", icc_profile(ColourSpace::srgb)),
                 std::pair<const char*, std::string>("wide", icc_profile(ColourSpace::p3)),
                 std::pair<const char*, std::string>("widest", icc_profile(ColourSpace::rec2020)),
                 std::pair<const char*, std::string>("odd gamma", odd_gamma_screen()),
                 std::pair<const char*, std::string>("table", table_screen()));
    const Intent intent = GENERATE(Intent::relative_colorimetric, Intent::perceptual, Intent::absolute_colorimetric);
    const bool compensation = GENERATE(true, false);
    INFO(name << ", " << to_string(intent));
    const ScreenSettings settings{profile, intent, compensation};
    const ScreenColours screen(settings);
    const auto reference = by_little_cms(colours, settings);
    const auto d = differences_on(profile, values_of(screen.encoded(planes_of(colours, 200))), reference);
    CHECK(std::accumulate(d.begin(), d.end(), 0.0) / static_cast<double>(d.size()) < 0.5);
    CHECK(*std::max_element(d.begin(), d.end()) < 1.5);
}

TEST_CASE("the red of sRGB has its published place on a P3 screen", "[render][screen]") {
    Planes red(cv::Size(1, 1));
    for (std::size_t c = 0; c < 3; ++c) red.channel[c](0, 0) = c == 0 ? 1.f : 0.f;
    const ScreenColours screen({icc_profile(ColourSpace::p3), Intent::relative_colorimetric, true});
    const cv::Vec3w v = screen.encoded(red)(0, 0);
    // W3C CSS Color 4: color(display-p3 0.91749 0.20029 0.13856).
    CHECK(v[0] / 65535.0 == Approx(0.91749).margin(5e-4));
    CHECK(v[1] / 65535.0 == Approx(0.20029).margin(5e-4));
    CHECK(v[2] / 65535.0 == Approx(0.13856).margin(5e-4));
}

TEST_CASE("dithering keeps means, and equal pictures equal", "[render][screen]") {
    for (const int value : {0, 100, 1000, 12345, 40000, 65400, 65535}) {
        const cv::Mat3w flat(64, 64, cv::Vec3w::all(static_cast<std::uint16_t>(value)));
        const cv::Mat3b eight = dithered(flat);
        INFO(value);
        CHECK(cv::mean(eight)[0] * 257 == Approx(value).margin(2.1));
        CHECK(cv::norm(eight, dithered(flat), cv::NORM_INF) == 0);
    }
}

TEST_CASE("a profile that is none of a screen is refused in one sentence", "[render][screen]") {
    const std::string good = icc_profile(ColourSpace::p3);
    for (const std::string& bad : {std::string("x"), std::string(200, '\0'), good.substr(0, 100), good.substr(0, 140)})
        CHECK_THROWS_AS(ScreenColours({bad, Intent::relative_colorimetric, true}), Error);
    std::string of_a_printer = good;
    of_a_printer.replace(12, 4, "prtr");
    CHECK_THROWS_WITH(ScreenColours({of_a_printer, Intent::relative_colorimetric, true}),
                      Catch::Contains("not one of a screen"));
}

TEST_CASE("a damaged screen profile is refused in a sentence, or gives values", "[render][screen]") {
    Planes light(cv::Size(8, 1));
    for (int i = 0; i < 8; ++i)
        for (cv::Mat1f& c : light.channel) c(0, i) = 0.15f * static_cast<float>(i);
    int refused = 0, used = 0;
    const auto tried = [&](const std::string& bytes) {
        try {
            const ScreenColours screen({bytes, Intent::relative_colorimetric, true});
            CHECK(screen.encoded(light).size() == light.size());
            ++used;
        } catch (const Error& error) {
            CHECK(error.kind() == ErrorKind::input);
            ++refused;
        }
    };
    const std::string curves = icc_profile(ColourSpace::p3), tables = table_screen();
    for (std::size_t size = 1; size < curves.size(); size += 3) tried(curves.substr(0, size));
    for (std::size_t size = 1; size < tables.size(); size += tables.size() / 40) tried(tables.substr(0, size));
    cv::RNG random(7);
    for (int i = 0; i < 2000; ++i) {
        std::string bytes = curves;
        for (int k = random.uniform(1, 6); k > 0; --k)
            bytes[static_cast<std::size_t>(random.uniform(0, static_cast<int>(bytes.size())))] =
                static_cast<char>(random.uniform(0, 256));
        tried(bytes);
    }
    CHECK(refused > 100);
    CHECK(used > 100);
}

TEST_CASE("colours beyond a screen are marked, those within are not", "[render][screen]") {
    Planes light(cv::Size(3, 1));
    const cv::Vec3f colours[] = {{0.2f, 0.2f, 0.2f}, {0.5f, 0.1f, 0.1f}, {-0.2f, 0.9f, -0.05f}};
    for (int i = 0; i < 3; ++i)
        for (int c = 0; c < 3; ++c) light.channel[static_cast<std::size_t>(c)](0, i) = colours[i][c];
    const cv::Mat1b narrow = ScreenColours::srgb()->outside(light, ScreenColours::srgb()->encoded(light));
    CHECK(narrow(0, 0) == 0);
    CHECK(narrow(0, 1) == 0);
    CHECK(narrow(0, 2) != 0);
    const ScreenColours wide({icc_profile(ColourSpace::rec2020), Intent::relative_colorimetric, true});
    CHECK(wide.outside(light, wide.encoded(light))(0, 2) == 0);
}

TEST_CASE("clipped raw samples are told by colour, and black ones", "[render][marks]") {
    RawPicture raw;
    raw.counts = cv::Mat1w(8, 8, ushort(1000));
    raw.filter = {{{0, 1}, {1, 2}}};
    raw.black = {{{100, 100}, {100, 100}}};
    raw.white = 4000;
    raw.counts(0, 0) = 4000;                     // red
    raw.counts(2, 3) = 4095;                     // green
    raw.counts(5, 5) = 4000;                     // blue
    raw.counts(cv::Rect(6, 6, 2, 2)).setTo(90);  // below black
    raw.counts(0, 6) = 3999;                     // nearly
    const LostCells lost = lost_cells(raw, 2);
    CHECK(cv::sum(lost.clipped.channel[0])[0] == 1);
    CHECK(lost.clipped.channel[0](0, 0) == 1);
    CHECK(cv::sum(lost.clipped.channel[1])[0] == 1);
    CHECK(lost.clipped.channel[1](1, 1) == 1);
    CHECK(cv::sum(lost.clipped.channel[2])[0] == 1);
    CHECK(lost.clipped.channel[2](2, 2) == 1);
    CHECK(lost.black(3, 3) == 1);
    CHECK(cv::sum(lost.black)[0] == 1);
}

TEST_CASE("what development clips is what no space holds", "[render][marks]") {
    Planes light(cv::Size(4, 1));
    const cv::Vec3f colours[] = {{1, 1, 1}, {1.2f, 1.2f, 1.2f}, {-0.1f, -0.1f, -0.1f}, {0.5f, 0.5f, 0.5f}};
    for (int i = 0; i < 4; ++i)
        for (int c = 0; c < 3; ++c) light.channel[static_cast<std::size_t>(c)](0, i) = colours[i][c];
    const cv::Mat1b marks = lost_in_development(light);
    CHECK(marks(0, 0) == 0);
    CHECK(marks(0, 1) == lost_bright);
    CHECK(marks(0, 2) == lost_dark);
    CHECK(marks(0, 3) == 0);
    const auto percent = lost_percent(marks, cv::Mat1b(marks.size(), uchar(0)));
    CHECK(percent[4] == 25);
    CHECK(percent[5] == 25);
}

TEST_CASE("a profile that promises more than it holds is refused before memory is taken for it", "[render][screen]") {
    const std::string plain = icc_profile(ColourSpace::p3), table = table_screen();
    for (const std::string& sound : {plain, table, odd_gamma_screen()}) CHECK(icc_tags_fit(sound));
    std::vector<std::string> greedy{plain.substr(0, plain.size() - 40)};
    struct Patch {
        std::string profile;
        const char* type;
        std::size_t offset;
        std::string instead;
    };
    for (const Patch& p :
         {Patch{plain, "mluc", 8, "\x02\xff\xff\xff"}, Patch{odd_gamma_screen(), "curv", 8, "\x7f"},
          Patch{table, "mft2", 10, "\xff"}, Patch{table, "mft2", 8, "\x0f"}, Patch{table, "mAB ", 9, "\xff"}})
        for (std::size_t at = p.profile.find(p.type, 200); at != std::string::npos;
             at = p.profile.find(p.type, at + 4)) {
            std::string bytes = p.profile;
            greedy.push_back(bytes.replace(at + p.offset, p.instead.size(), p.instead));
        }
    CHECK(greedy.size() > 3);
    // A table of 255 x 255 x 255 points whose values have no bytes, and a curve of many samples.
    if (const std::size_t at = table.find("mAB ", 200); at != std::string::npos) {
        std::string none = table;
        const std::size_t clut =
            at + 256 * static_cast<unsigned char>(table[at + 26]) + static_cast<unsigned char>(table[at + 27]);
        greedy.push_back(none.replace(clut, 3, "\xff\xff\xff").replace(clut + 16, 1, std::string(1, '\0')));
    }
    std::string sampled = plain;
    const std::size_t at = 128 + 4 + 12;  // the second tag
    const auto place = [&](int k) { return static_cast<unsigned char>(plain[at + static_cast<std::size_t>(4 + k)]); };
    const std::size_t tag = (std::size_t(place(2)) << 8) + std::size_t(place(3));
    greedy.push_back(sampled.replace(tag, 24, std::string("mpet\0\0\0\0\0\3\0\3\0\0\0\0samf\0\0\0\0", 24))
                         .replace(tag + 24, 4, "\x07\xff\xff\xff"));
    std::string many_tags = plain;
    many_tags.replace(128, 4, "\x7f\xff\xff\xff");
    greedy.push_back(many_tags);
    for (std::size_t i = 0; i < greedy.size(); ++i) {
        const std::string& bytes = greedy[i];
        CAPTURE(i, plain.size(), table.size(), bytes.size());
        CHECK_FALSE(icc_tags_fit(bytes));
        CHECK_THROWS_AS(ScreenColours({bytes, Intent::relative_colorimetric, true}), Error);
    }
}
