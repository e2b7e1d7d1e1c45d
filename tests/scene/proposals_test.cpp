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

TEST_CASE("the frame's own edges propose red and blue to less than a tenth of a pixel", "[scene][proposals]") {
    for (const auto& [name, body] :
         {std::pair("SP0001", "brimholt-a"), {"SP0004", "brimholt-b"}, {"SP0007", "tarnwick-a"}}) {
        const MeasuringPicture picture = read_for_measuring(rig_frame(name));
        const PictureGeometry g{picture.width, picture.height, picture.metadata.pitch_um};
        const FringeProposal p = propose_fringes(picture, straight_lens(g), Progress());
        const Truth truth = rig_truth(body);
        CAPTURE(name, p.red_px, p.red_sigma, p.blue_px, p.blue_sigma, p.edges);
        // The truth by the radial term that explains it best over the frame. It grows faster than the radius, so the
        // best term depends a little on where the edges lie.
        double red = 0, blue = 0, n = 0;
        const double half = 0.5 * std::hypot(truth.width, truth.height);
        for (const TruthRay& r : truth.rays) {
            const Vec2 s = (r.frame - truth.centre) / half;
            red += s.dot(r.red - r.frame);
            blue += s.dot(r.blue - r.frame);
            n += s.squaredNorm();
        }
        CHECK(p.red_px == Approx(red / n).margin(0.07));
        CHECK(p.blue_px == Approx(blue / n).margin(0.07));
        CHECK(p.red_sigma < 0.1);
        // What a lens already says is not proposed again.
        HandCorrection hand;
        hand.red_px = p.red_px;
        hand.blue_px = p.blue_px;
        const FringeProposal again = propose_fringes(picture, straight_lens(g, hand), Progress());
        CHECK(std::abs(again.red_px) < 0.02);
        CHECK(std::abs(again.blue_px) < 0.02);
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
    CHECK(is_one_sentence(sentence_of([&] { propose_fringes(flat, straight_lens({400, 400, 10}), Progress()); })));
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
        CHECK(is_one_sentence(sentence_of([&] { propose_distortion({through}, with); })));
        CHECK(is_one_sentence(sentence_of([&] { propose_distortion({}, with); })));
    }
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
    CHECK(is_one_sentence(sentence_of([&] { propose_light(picture, {560, 360, 80, 80}, straight_lens(g)); })));
    picture.planes[0].values.setTo(1.f);
    CHECK(is_one_sentence(sentence_of([&] { propose_light(picture, {0, 0, 1200, 800}, straight_lens(g)); })));
}
