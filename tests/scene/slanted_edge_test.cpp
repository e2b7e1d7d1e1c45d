// SPDX-License-Identifier: GPL-3.0-or-later
#include "scene/slanted_edge.h"
#include "base/angle.h"

#include <catch2/catch.hpp>
#include <cmath>
#include <random>

#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

/// A straight edge through the middle at an angle, blurred by a Gaussian and gathered by square pixels, as a mosaic.
MeasuringPicture edge(double angle_deg, double blur, double noise, unsigned seed, double dark = 0.1,
                      double light = 0.7) {
    MeasuringPicture out;
    out.width = out.height = 200;
    const double a = angle_deg * pi / 180;
    const Vec2 normal(-std::sin(a), std::cos(a)), middle(100.3, 99.6);
    std::mt19937 random(seed);
    std::normal_distribution<double> n(0, noise);
    const auto value = [&](double u, double v) {
        double sum = 0;
        constexpr int fine = 8;
        for (int j = 0; j < fine; ++j)
            for (int i = 0; i < fine; ++i) {
                const double t = normal.dot(Vec2(u + (i + 0.5) / fine - 0.5, v + (j + 0.5) / fine - 0.5) - middle);
                sum += 0.5 * std::erfc(-t / (blur * std::sqrt(2.0)));
            }
        return static_cast<float>(dark + (light - dark) * sum / (fine * fine) + n(random));
    };
    for (const auto& [channel, u0, v0] : {std::tuple(Channel::red, 0.5, 0.5),
                                          {Channel::green, 1.5, 0.5},
                                          {Channel::green, 0.5, 1.5},
                                          {Channel::blue, 1.5, 1.5}}) {
        SamplePlane p;
        p.channel = channel;
        p.u0 = u0;
        p.v0 = v0;
        p.step = 2;
        p.values.create(100, 100);
        for (int j = 0; j < 100; ++j)
            for (int i = 0; i < 100; ++i) p.values(j, i) = value(u0 + 2 * i, v0 + 2 * j);
        out.planes.push_back(p);
    }
    return out;
}

/// Modulation of that blur and pixel across an edge at an angle.
double truth_at(double f, double angle_deg, double blur) {
    const double a = angle_deg * pi / 180, fx = f * std::sin(a), fy = f * std::cos(a);
    const auto sinc = [](double x) { return std::abs(x) < 1e-9 ? 1 : std::sin(pi * x) / (pi * x); };
    return std::exp(-2 * pi * pi * blur * blur * f * f) * std::abs(sinc(fx) * sinc(fy));
}

double mtf50_of(double angle_deg, double blur) {
    double low = 0, high = 1;
    for (int i = 0; i < 60; ++i) {
        const double f = 0.5 * (low + high);
        (truth_at(f, angle_deg, blur) > 0.5 ? low : high) = f;
    }
    return low;
}

EdgeResponse measured(const MeasuringPicture& p, double angle_deg, Channel channel = Channel::green,
                      double length = 120, double room = 14) {
    const double a = angle_deg * pi / 180;
    const Vec2 along(std::cos(a), std::sin(a)), middle(100, 100);
    return edge_response(p, channel, middle - 0.5 * length * along, middle + 0.5 * length * along, room);
}

}  // namespace

TEST_CASE("MTF50 of a known blur is found within three percent, in every colour", "[scene][resolution]") {
    for (const double blur : {0.45, 0.6, 0.9, 1.5})
        for (const double angle : {5.0, 17.0, 33.0, 85.0, 112.0}) {
            const MeasuringPicture p = edge(angle, blur, 0.004, 1);
            for (const Channel channel : {Channel::red, Channel::green, Channel::blue}) {
                const EdgeResponse e = measured(p, angle, channel);
                CAPTURE(blur, angle, static_cast<int>(channel), e.why_not, e.sigma);
                REQUIRE(e.usable);
                CHECK(e.mtf50 == Approx(mtf50_of(angle, blur)).epsilon(0.03));
                CHECK(e.at(0) == Approx(1).margin(0.02));
                CHECK(e.at(0.2) == Approx(truth_at(0.2, angle, blur)).margin(0.03));
            }
        }
}

TEST_CASE("the sigma of MTF50 is what repeated photographs show", "[scene][resolution]") {
    double chi = 0;
    constexpr int times = 60;
    const double truth = mtf50_of(8, 0.7);
    for (int i = 0; i < times; ++i) {
        const EdgeResponse e = measured(edge(8, 0.7, 0.015, 100 + i), 8);
        REQUIRE(e.usable);
        chi += std::pow((e.mtf50 - truth) / e.sigma, 2) / times;
    }
    CHECK(std::sqrt(chi) > 0.7);
    CHECK(std::sqrt(chi) < 1.35);
}

TEST_CASE("edges that cannot be measured say why", "[scene][resolution]") {
    const auto why = [](const EdgeResponse& e) { return e.usable ? std::string() : e.why_not; };
    CHECK(is_one_sentence(why(measured(edge(8, 0.7, 0.004, 1, 0.4, 0.405), 8))));
    CHECK(is_one_sentence(why(measured(edge(8, 0.7, 0.0, 1, 0.1, 1.05), 8))));
    CHECK(is_one_sentence(why(measured(edge(0, 0.7, 0.004, 1), 0))));
    CHECK(is_one_sentence(why(measured(edge(8, 0.7, 0.004, 1), 8, Channel::green, 10))));
    CHECK(is_one_sentence(why(measured(edge(8, 0.7, 0.004, 1), 60))));
    // A line beside the edge is no part of it; with less room it can be measured.
    for (const double depth : {0.2, 0.4, 0.55}) {
        MeasuringPicture lined = edge(8, 0.7, 0.004, 1);
        const Vec2 across(-std::sin(8 * pi / 180), std::cos(8 * pi / 180));
        for (SamplePlane& p : lined.planes)
            for (int j = 0; j < p.values.rows; ++j)
                for (int i = 0; i < p.values.cols; ++i) {
                    const double t = across.dot(Vec2(p.u0 + 2 * i, p.v0 + 2 * j) - Vec2(100.3, 99.6)) - 8;
                    p.values(j, i) -= static_cast<float>(depth * std::exp(-t * t / 2));
                }
        CAPTURE(depth, measured(lined, 8).mtf50);
        CHECK(is_one_sentence(why(measured(lined, 8))));
        CHECK(measured(lined, 8, Channel::green, 60, 5).usable);
    }
    CHECK(is_one_sentence(why(edge_response(edge(8, 0.7, 0.004, 1), Channel::green, {-500, -500}, {-400, -480}, 14))));
}
