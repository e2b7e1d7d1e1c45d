// SPDX-License-Identifier: GPL-3.0-or-later
#include "render/defringing.h"

#include <catch2/catch.hpp>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

Planes copy_of(const Planes& p) {
    Planes out;
    for (int c = 0; c < 3; ++c) out.channel[c] = p.channel[c].clone();
    return out;
}

/// Twigs before a bright sky, defocused a little more in red and blue than in green, with leaves and petals beside.
struct Twigs {
    Planes clean, fringed;
    cv::Rect leaf{20, 240, 60, 60}, petal{140, 240, 60, 60};

    Twigs() : clean(cv::Size(320, 320)) {
        const float sky[] = {0.9f, 0.95f, 1.f}, twig[] = {0.06f, 0.05f, 0.04f};
        for (int c = 0; c < 3; ++c) {
            cv::Mat1f& p = clean.channel[c];
            p.setTo(sky[c]);
            for (int k = 0; k < 4; ++k) cv::rectangle(p, cv::Rect(20 + 75 * k, 10, 36, 200), twig[c], cv::FILLED);
            const float green[] = {0.12f, 0.3f, 0.05f}, pink[] = {0.6f, 0.2f, 0.45f};
            cv::rectangle(p, leaf, green[c], cv::FILLED);
            cv::rectangle(p, petal, pink[c], cv::FILLED);
            cv::GaussianBlur(p, p, {0, 0}, 1.2);
        }
        fringed = copy_of(clean);
        for (const int c : {0, 2}) cv::GaussianBlur(fringed.channel[c], fringed.channel[c], {0, 0}, 2.2);
    }

    /// Mean colour at the twigs' edges beside what the clean picture has there.
    double colour_at_edges(const Planes& p) const {
        double sum = 0;
        int n = 0;
        for (int row = 60; row < 160; ++row)
            for (int i = 10; i < 310; ++i)
                for (const int c : {0, 2}) {
                    const float had = clean.channel[c](row, i) - clean.channel[1](row, i),
                                has = p.channel[c](row, i) - p.channel[1](row, i),
                                fringe = fringed.channel[c](row, i) - fringed.channel[1](row, i);
                    if (std::abs(fringe - had) < 0.03f) continue;
                    sum += std::abs(has - had);
                    ++n;
                }
        return sum / n;
    }
};

double away_from_edges(const Planes& a, const Planes& b, cv::Rect area) {
    area = {area.x + 15, area.y + 15, area.width - 30, area.height - 30};
    double most = 0;
    for (int c = 0; c < 3; ++c) {
        const double before = cv::mean(a.channel[c](area))[0], after = cv::mean(b.channel[c](area))[0];
        most = std::max(most, std::abs(after / before - 1));
    }
    return most;
}

}  // namespace

TEST_CASE("fringes at defocused bright edges lose four fifths, leaves and petals nothing", "[render][fringes]") {
    const Twigs t;
    const double before = t.colour_at_edges(t.fringed);
    for (const DefringingSettings& settings :
         {DefringingSettings{100, {}, false}, DefringingSettings{0, {{250, 350, 100}, {70, 170, 100}}, true}}) {
        Planes p = copy_of(t.fringed);
        apply_defringing(p, settings);
        CHECK(t.colour_at_edges(p) < 0.2 * before);
        CHECK(away_from_edges(t.fringed, p, t.leaf) < 0.005);
        CHECK(away_from_edges(t.fringed, p, t.petal) < 0.005);
        CHECK(cv::norm(p.channel[1], t.fringed.channel[1], cv::NORM_INF) == 0);
    }
}

TEST_CASE("only the hues that are called faults are touched", "[render][fringes]") {
    const Twigs t;
    Planes other = copy_of(t.fringed);
    apply_defringing(other, {0, {{20, 50, 100}}, false});
    CHECK(t.colour_at_edges(other) > 0.95 * t.colour_at_edges(t.fringed));
    Planes half = copy_of(t.fringed), none = copy_of(t.fringed);
    apply_defringing(half, {50, {}, false});
    apply_defringing(none, {});
    CHECK(t.colour_at_edges(half) == Approx(0.5 * t.colour_at_edges(t.fringed)).epsilon(0.25));
    CHECK(cv::norm(none.channel[0], t.fringed.channel[0], cv::NORM_INF) == 0);
}

TEST_CASE("a thin stalk keeps its colour though neither side has it", "[render][fringes]") {
    Planes p(cv::Size(120, 120));
    const float side[] = {0.1f, 0.2f, 0.05f}, stalk[] = {0.5f, 0.35f, 0.3f};
    for (int c = 0; c < 3; ++c) {
        p.channel[c].setTo(side[c]);
        cv::rectangle(p.channel[c], cv::Rect(57, 0, 6, 120), stalk[c], cv::FILLED);
        cv::GaussianBlur(p.channel[c], p.channel[c], {0, 0}, 0.8);
    }
    Planes treated = copy_of(p);
    apply_defringing(treated, {100, {}, false});
    CHECK(treated.channel[0](60, 60) == Approx(p.channel[0](60, 60)).epsilon(0.005));
    CHECK(treated.channel[2](60, 60) == Approx(p.channel[2](60, 60)).epsilon(0.005));
}

TEST_CASE("what is found is listed by hue with its strength, width and place", "[render][fringes]") {
    const Twigs t;
    CHECK(find_fringes(t.clean).empty());
    const std::vector<FringeFound> found = find_fringes(t.fringed);
    REQUIRE_FALSE(found.empty());
    double share = 0;
    for (const FringeFound& f : found) {
        CHECK(f.percent > 1);
        CHECK(f.width_px >= 1);
        CHECK(f.width_px < 12);
        CHECK_FALSE(f.places.empty());
        share += f.share;
    }
    CHECK(share > 0.1);
    CHECK(found.front().bright);
}

TEST_CASE("hues are read, or refused with a way out", "[baselines][fringes]") {
    const std::vector<HueRange> hues = fringe_hues("260-340 80, 90-150 50");
    REQUIRE(hues.size() == 2);
    CHECK(hues[1].percent == 50);
    CHECK(to_text(hues) == "260-340 80, 90-150 50");
    CHECK(fringe_hues("none").empty());
    const DefringingSettings settings{0, fringe_hues("350-20 60"), false};
    CHECK(settings.share(5) == Approx(0.6));
    CHECK(settings.share(25) == Approx(0.3));
    CHECK(settings.share(345) == Approx(0.3));
    CHECK(settings.share(180) == 0);
    for (const char* text :
         {"", "purple", "260-340", "260 80", "260-400 80", "260-340 120", "260-340 -1", "a-b c", "nan-340 5"})
        CHECK(error_of([&] { fringe_hues(text); }) == "input");
}
