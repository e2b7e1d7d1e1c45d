// SPDX-License-Identifier: GPL-3.0-or-later
// Luma and colour differences against the formulas of ITU-R BT.601, BT.709 and BT.2020, pixel by pixel.
#include "films/yuv_light.h"

#include <catch2/catch.hpp>
#include <cmath>
#include <vector>

using namespace optrel;

namespace {

/// A picture in memory, in numbers of 8 or 16 bits.
struct Numbers {
    YuvForm form;
    cv::Size size, colours;
    std::array<std::vector<std::uint16_t>, 3> wide;
    std::array<std::vector<std::uint8_t>, 3> bytes;

    Numbers(const YuvForm& f, cv::Size s)
        : form(f), size(s), colours(f.wide ? (s.width + 1) / 2 : s.width, f.tall ? (s.height + 1) / 2 : s.height) {
        for (std::size_t p = 0; p < 3; ++p) {
            const auto count = static_cast<std::size_t>((p == 0 ? size : colours).area());
            wide[p].resize(count);
            bytes[p].resize(count);
        }
    }
    void set(std::size_t p, int x, int y, double v) {
        const auto at = static_cast<std::size_t>(y * (p == 0 ? size : colours).width + x);
        wide[p][at] = static_cast<std::uint16_t>(std::lround(v));
        bytes[p][at] = static_cast<std::uint8_t>(std::lround(v));
    }
    int at(std::size_t p, int x, int y) const {
        const auto i = static_cast<std::size_t>(y * (p == 0 ? size : colours).width + x);
        return form.depth == 8 ? bytes[p][i] : wide[p][i];
    }
    template <class Byte>
    YuvPlanes<Byte> planes() {
        YuvPlanes<Byte> out;
        for (std::size_t p = 0; p < 3; ++p) {
            out.first[p] = form.depth == 8 ? bytes[p].data() : reinterpret_cast<std::uint8_t*>(wide[p].data());
            out.stride[p] = std::ptrdiff_t((p == 0 ? size : colours).width) * (form.depth == 8 ? 1 : 2);
        }
        return out;
    }
    /// Of 0 to 1, and of -1/2 to 1/2.
    double luma(double v) const {
        const double k = std::ldexp(1.0, form.depth - 8);
        return form.full_range ? v * (256 * k - 1) : (16 + 219 * v) * k;
    }
    double difference(double v) const {
        const double k = std::ldexp(1.0, form.depth - 8);
        return form.full_range ? 128 * k + v * (256 * k - 1) : (128 + 224 * v) * k;
    }
};

std::vector<YuvForm> forms() {
    std::vector<YuvForm> out;
    for (const int depth : {8, 10, 12, 16})
        for (const bool full : {false, true}) {
            out.push_back({depth, false, false, full, 0.2126, 0.0722, 0, 0});
            out.push_back({depth, true, false, full, 0.2627, 0.0593, 0, 0});
            for (const double right : {0.0, 0.5})
                for (const double down : {0.0, 0.5})
                    out.push_back({depth, true, true, full, 0.299, 0.114, right, down});
        }
    return out;
}

}  // namespace

TEST_CASE("numbers of films lead to light by the standards' formulas, and back", "[films]") {
    const FilmLight light(FilmCurve::bt709);
    const cv::Size size(70, 46);
    for (const YuvForm& form : forms()) {
        INFO(form.depth << " bits, wide " << form.wide << ", tall " << form.tall << ", full " << form.full_range
                        << ", at " << form.right << ", " << form.down);
        // Colours that change along the picture, as the standards place them: a wrong place shows in each pixel.
        const auto blue = [](double x) { return -0.1 + 0.2 * x / 70; };
        const auto red = [](double y) { return 0.1 - 0.2 * y / 46; };
        const double bright = 0.5;
        Numbers in(form, size);
        for (int y = 0; y < size.height; ++y)
            for (int x = 0; x < size.width; ++x) in.set(0, x, y, in.luma(bright));
        for (int y = 0; y < in.colours.height; ++y)
            for (int x = 0; x < in.colours.width; ++x) {
                in.set(1, x, y, in.difference(blue(form.wide ? 2 * x + form.right : x)));
                in.set(2, x, y, in.difference(red(form.tall ? 2 * y + form.down : y)));
            }
        const YuvLight yuv(form, light, size);
        Planes out(size);
        yuv.to_light(in.planes<const std::uint8_t>(), {}, out);
        const double step = 1.2 / 219 * std::ldexp(1.0, 8 - form.depth);  // numbers are whole
        const double kg = 1 - form.kr - form.kb;
        for (int y = 4; y < size.height - 4; ++y)
            for (int x = 4; x < size.width - 4; ++x) {
                const double b = bright + 2 * (1 - form.kb) * blue(x), r = bright + 2 * (1 - form.kr) * red(y);
                const double g = (bright - form.kr * r - form.kb * b) / kg;
                const double expected[] = {r, g, b};
                for (int c = 0; c < 3; ++c) {
                    const double value = value_of(FilmCurve::bt709, out.channel[c](y, x));
                    if (std::abs(value - expected[c]) > 1e-4 + 1.5 * step) FAIL(x << ' ' << y << ' ' << c);
                }
            }
        Numbers back(form, size);
        yuv.to_numbers(out, back.planes<std::uint8_t>());
        const int allowed = form.depth > 12 ? 6 : 1;  // the tables have 16 bits
        for (std::size_t p = 0; p < 3; ++p)
            for (int y = 4; y < (p == 0 ? size : in.colours).height - 4; ++y)
                for (int x = 4; x < (p == 0 ? size : in.colours).width - 4; ++x)
                    if (std::abs(back.at(p, x, y) - in.at(p, x, y)) > allowed) FAIL(p << ' ' << x << ' ' << y);
    }
}

TEST_CASE("one colour stays itself to the edges, at any size, and gains multiply light", "[films]") {
    const FilmLight light(FilmCurve::srgb);
    for (const cv::Size size : {cv::Size(16, 16), {17, 19}, {33, 64}, {65, 67}, {130, 129}})
        for (const YuvForm& form : forms()) {
            Numbers in(form, size);
            for (std::size_t p = 0; p < 3; ++p)
                for (int y = 0; y < (p == 0 ? size : in.colours).height; ++y)
                    for (int x = 0; x < (p == 0 ? size : in.colours).width; ++x)
                        in.set(p, x, y, p == 0 ? in.luma(0.4) : in.difference(p == 1 ? 0.12 : -0.07));
            const YuvLight yuv(form, light, size);
            Planes plain(size), doubled(size), gain(size);
            for (int c = 0; c < 3; ++c) gain.channel[c].setTo(1 + c);
            yuv.to_light(in.planes<const std::uint8_t>(), {}, plain);
            yuv.to_light(in.planes<const std::uint8_t>(), gain, doubled);
            Numbers back(form, size);
            yuv.to_numbers(plain, back.planes<std::uint8_t>());
            INFO(size << ", " << form.depth << " bits, wide " << form.wide << ", tall " << form.tall);
            for (int c = 0; c < 3; ++c) {
                double low = 0, high = 0;
                cv::minMaxLoc(plain.channel[c], &low, &high);
                CHECK(high - low < 1e-4 * high);
                CHECK(cv::norm(doubled.channel[c], plain.channel[c] * (1 + c), cv::NORM_INF) < 1e-6);
            }
            const int allowed = form.depth > 12 ? 6 : 0;
            for (std::size_t p = 0; p < 3; ++p)
                for (int y = 0; y < (p == 0 ? size : in.colours).height; ++y)
                    for (int x = 0; x < (p == 0 ? size : in.colours).width; ++x)
                        if (std::abs(back.at(p, x, y) - in.at(p, x, y)) > allowed) FAIL(p << ' ' << x << ' ' << y);
        }
}

TEST_CASE("light that is none, or beyond white, becomes black or white", "[films]") {
    const FilmLight light(FilmCurve::bt709);
    const YuvForm form;
    const cv::Size size(32, 16);
    Numbers out(form, size);
    Planes planes(size);
    for (cv::Mat1f& c : planes.channel) {
        c.setTo(std::numeric_limits<float>::quiet_NaN());
        c.colRange(8, 16).setTo(-1);
        c.colRange(16, 24).setTo(7);
        c.colRange(24, 32).setTo(std::numeric_limits<float>::infinity());
    }
    YuvLight(form, light, size).to_numbers(planes, out.planes<std::uint8_t>());
    for (const int x : {2, 10}) CHECK(out.at(0, x, 8) == 16);
    for (const int x : {18, 28}) CHECK(out.at(0, x, 8) == 235);
    for (const int x : {1, 5, 9, 13}) CHECK(out.at(1, x, 4) == 128);
}
