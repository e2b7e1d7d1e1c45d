// SPDX-License-Identifier: GPL-3.0-or-later
#include "scene/proposals.h"

#include <catch2/catch.hpp>
#include <random>

#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

FrameMap straight_lens(const PictureGeometry& g, const HandCorrection& hand = {}) {
    ProfileNode n;
    n.focal_mm = 35;
    return {n, g, g, {}, hand};
}

}  // namespace

TEST_CASE("the frame's own edges propose red and blue in the corner to a twentieth of a pixel", "[scene][proposals]") {
    for (const auto& [name, body] :
         {std::pair("SP0001", "brimholt-a"), {"SP0004", "brimholt-b"}, {"SP0007", "tarnwick-a"}}) {
        const MeasuringPicture picture = read_for_measuring(rig_frame(name));
        const PictureGeometry g{picture.width, picture.height, picture.metadata.pitch_um};
        const ChromaticProposal p = propose_fringes(picture, straight_lens(g), Progress());
        const Truth truth = rig_truth(body);
        CAPTURE(name, p.red.corner_px, p.red.corner_sigma, p.blue.corner_px, p.blue.corner_sigma, p.red.bow_px,
                p.blue.bow_px, p.edges);
        // The truth in the corner, over the four of them.
        double red = 0, blue = 0;
        const double half = 0.5 * std::hypot(truth.width, truth.height);
        int corners = 0;
        for (const TruthRay& r : truth.rays) {
            const Vec2 s = (r.frame - truth.centre) / half;
            if (s.norm() < 0.985) continue;
            ++corners;
            red += s.normalized().dot(r.red - r.frame) / s.norm();
            blue += s.normalized().dot(r.blue - r.frame) / s.norm();
        }
        REQUIRE(corners >= 4);
        CHECK(p.red.corner_px == Approx(red / corners).margin(0.05));
        CHECK(p.blue.corner_px == Approx(blue / corners).margin(0.05));
        CHECK(p.red.corner_sigma < 0.1);
        // Half way too.
        HandCorrection found;
        found.red_px = p.red.corner_px;
        found.red_bow_px = p.red.bow_px;
        found.blue_px = p.blue.corner_px;
        found.blue_bow_px = p.blue.bow_px;
        const FrameMap lens = straight_lens(g, found);
        double left = 0;
        for (const TruthRay& r : truth.rays)
            for (const auto& [channel, at] : {std::pair(Channel::red, r.red), {Channel::blue, r.blue}})
                left += (lens.fringe(channel, r.frame) - at).squaredNorm() / (2.0 * truth.rays.size());
        CHECK(std::sqrt(left) < 0.14);  // the rig shifts its colours by 0.12 px, which is no part of it
        // What a profile already says is not proposed again; what a person says is replaced.
        HandCorrection wrong;
        wrong.red_px = p.red.corner_px;
        wrong.blue_px = -p.blue.corner_px;
        const ChromaticProposal again = propose_fringes(picture, straight_lens(g, wrong), Progress());
        CHECK(again.red.corner_px == Approx(p.red.corner_px).margin(0.03));
        CHECK(again.blue.corner_px == Approx(p.blue.corner_px).margin(0.03));
        CHECK(again.red.bow_px == Approx(p.red.bow_px).margin(0.03));
    }
}

TEST_CASE("a frame without detail proposes nothing, in one sentence", "[scene][proposals]") {
    MeasuringPicture flat;
    flat.width = flat.height = 400;
    for (const Channel c : {Channel::red, Channel::green, Channel::blue}) {
        SamplePlane p;
        p.channel = c;
        p.values = cv::Mat1f(400, 400, 0.4f);
        flat.planes.push_back(p);
    }
    CHECK(error_of([&] { propose_fringes(flat, straight_lens({400, 400, 10}), Progress()); }) == "input");
}

TEST_CASE("lines that ought to be straight propose the distortion", "[scene][proposals]") {
    const PictureGeometry g{3000, 2000, 12};
    std::mt19937 random(4);
    std::normal_distribution<double> noise(0, 0.05);
    for (const double truth : {-0.04, 0.015}) {
        HandCorrection hand;
        hand.distortion = truth;
        const FrameMap bent = straight_lens(g, hand);
        std::vector<Segment> lines;
        for (const auto& [a, b] : {std::pair(Vec2(100, 150), Vec2(2900, 250)),
                                   {Vec2(200, 1850), Vec2(2800, 1800)},
                                   {Vec2(150, 100), Vec2(250, 1900)}}) {
            Segment s;
            for (int k = 0; k <= 200; ++k) {
                const Vec2 p = bent.green(a + (b - a) * (k / 200.0));
                s.points.push_back(p + Vec2(noise(random), noise(random)));
            }
            lines.push_back(s);
        }
        const auto with = [&](double d) {
            HandCorrection h;
            h.distortion = d;
            return straight_lens(g, h);
        };
        const DistortionProposal p = propose_distortion(lines, with);
        CAPTURE(p.distortion, p.sigma, truth);
        CHECK(std::abs(p.distortion - truth) < 4 * p.sigma);
        CHECK(p.sigma < 0.001);
        CHECK(p.before_px > 1);
        CHECK(p.after_px < 0.1);
        // A line through the middle stays straight whatever the lens does.
        Segment through;
        for (int k = 0; k <= 100; ++k) through.points.emplace_back(30.0 * k, 20.0 * k);
        CHECK(error_of([&] { propose_distortion({through}, with); }) == "input");
        CHECK(error_of([&] { propose_distortion({}, with); }) == "input");
    }
}

TEST_CASE("three places on what is straight say the distortion", "[scene][proposals]") {
    const PictureGeometry g{3000, 2000, 12};
    const auto with = [&](double d) {
        HandCorrection h;
        h.distortion = d;
        return straight_lens(g, h);
    };
    for (const double truth : {-0.08, -0.01, 0.03}) {
        const FrameMap bent = with(truth);
        const Vec2 a(200, 120), b(2700, 180);
        const auto seen = [&](double t) { return bent.green(a + t * (b - a)); };
        CHECK(straightening_distortion(seen(0), seen(0.45), seen(1), with) == Approx(truth).margin(1e-5));
    }
    const auto refused = [&](const Vec2& from, const Vec2& middle, const Vec2& to) {
        return error_of([&] { straightening_distortion(from, middle, to, with); }) == "input";
    };
    CHECK(refused({0, 0}, {1500, 1000}, {3000, 2000}));
    CHECK(refused({100, 100}, {1500, 900}, {2900, 100}));
    CHECK(refused({100, 100}, {100, 100}, {100, 100}));
}

TEST_CASE("an area that is evenly lit proposes the corner's light", "[scene][proposals]") {
    const PictureGeometry g{1200, 800, 30};
    HandCorrection hand;
    hand.light_ev = 1.4;
    hand.light_from = 0.3;
    const FrameMap dark = straight_lens(g, hand);
    std::mt19937 random(4);
    std::normal_distribution<float> noise(0, 0.005f);
    MeasuringPicture picture;
    picture.width = 1200;
    picture.height = 800;
    SamplePlane p;
    p.values.create(800, 1200);
    for (int row = 0; row < 800; ++row)
        for (int i = 0; i < 1200; ++i)
            p.values(row, i) =
                static_cast<float>(0.5 / dark.gain(Channel::green, {i + 0.5, row + 0.5})) + noise(random);
    picture.planes = {p};
    const LightProposal found = propose_light(picture, {0, 0, 1200, 800}, straight_lens(g));
    CHECK(found.light_ev == Approx(1.4).margin(0.03));
    CHECK(found.light_from == Approx(0.3).margin(0.03));
    CHECK(found.after_percent < 0.2 * found.before_percent);
    CHECK(error_of([&] { propose_light(picture, {560, 360, 80, 80}, straight_lens(g)); }) == "input");
    picture.planes[0].values.setTo(1.f);
    CHECK(error_of([&] { propose_light(picture, {0, 0, 1200, 800}, straight_lens(g)); }) == "input");
}
