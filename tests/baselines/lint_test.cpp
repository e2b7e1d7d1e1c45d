// SPDX-License-Identifier: GPL-3.0-or-later
#include "baselines/lint.h"

#include <algorithm>

#include <catch2/catch.hpp>

#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

FactsGroup group(const char* model, const char* body, double iso, int frames, const char* lens = "lumenfold352.8") {
    FactsGroup g;
    g.facts.model = model;
    g.facts.body = body;
    g.facts.body_knowledge = *body ? BodyKnowledge::known : BodyKnowledge::unknown;
    g.facts.iso = iso;
    g.facts.lens = lens;
    g.frames = frames;
    return g;
}

const std::vector<FactsGroup> groups{group("B2", "B2/1", 100, 3), group("B2", "B2/1", 6400, 2, "aldercroft604"),
                                     group("B2", "B2/2", 800, 4), group("T7", "", 400, 1)};
const std::vector<FleetBody> fleet{{"B2/1", "Stand 1", "B2", "", true},
                                   {"B2/2", "Infrared", "B2", "infrared-converted", true},
                                   {"Q2/a", "Hand", "Q2", "", false}};

Tier linted_tier(const char* id, Scope scope = Scope::studio, const char* target = "") {
    Tier t;
    t.id = t.name = id;
    t.scope = scope;
    t.target = target;
    return t;
}

Revision linted_revision(std::vector<Tier> tiers) {
    Revision r;
    r.tiers = std::move(tiers);
    return r;
}

Pin linted_number(double v) { return Pin::constant({v, ""}); }

std::vector<LintFinding> found(const Revision& r, LintRule rule) {
    std::vector<LintFinding> out = lint(r, groups, fleet);
    std::erase_if(out, [&](const LintFinding& f) { return f.rule != rule; });
    for (const LintFinding& f : out) CHECK(is_one_sentence(f.sentence));
    return out;
}

/// A finding whose remedy makes it go away, without bringing another of its kind.
Revision mended(const Revision& r, LintRule rule) {
    const auto before = found(r, rule);
    REQUIRE(before.size() == 1);
    REQUIRE_FALSE(before[0].remedy.empty());
    const Revision after = mend(r, before[0], groups, fleet).after;
    CHECK(found(after, rule).empty());
    return after;
}

}  // namespace

TEST_CASE("lint: a look field that is pinned", "[baselines]") {
    Tier s = linted_tier("s");
    s.pins = {{Field::contrast, linted_number(10)}, {Field::exposure, linted_number(1)}};
    const auto f = found(linted_revision({s}), LintRule::look_pinned);
    REQUIRE(f.size() == 1);
    CHECK(f[0].field == Field::contrast);
    CHECK(f[0].frames == 10);
    CHECK(mended(linted_revision({s}), LintRule::look_pinned).tiers[0].pins.size() == 1);
}

TEST_CASE("lint: a pin that equals what it overrides wherever it applies", "[baselines]") {
    Tier s = linted_tier("s"), m = linted_tier("m", Scope::model, "B2"), b = linted_tier("b", Scope::body, "B2/1");
    s.pins[Field::exposure] = {{{100, {0, ""}}, {6400, {1, ""}}}};
    m.pins[Field::exposure] = s.pins[Field::exposure];
    b.pins[Field::exposure] = linted_number(0);  // the same at ISO 100 only
    const auto f = found(linted_revision({s, m, b}), LintRule::pin_without_effect);
    REQUIRE(f.size() == 1);
    CHECK(f[0].tier_id == "m");
    Tier neutral = linted_tier("s");
    neutral.pins[Field::exposure] = linted_number(0);  // the start says that already
    CHECK(found(linted_revision({neutral}), LintRule::pin_without_effect).size() == 1);
    mended(linted_revision({s, m, b}), LintRule::pin_without_effect);
}

TEST_CASE("lint: noise reduction where noise is treated elsewhere", "[baselines]") {
    Tier s = linted_tier("s"), b = linted_tier("b", Scope::body, "B2/2");
    s.pins[Field::luminance_noise] = linted_number(20);
    b.pins[Field::noise_elsewhere] = Pin::constant({0, "on"});
    const auto f = found(linted_revision({s, b}), LintRule::noise_twice);
    REQUIRE(f.size() == 1);
    CHECK(f[0].frames == 4);
    b.pins[Field::luminance_noise] = linted_number(0);
    CHECK(found(linted_revision({s, b}), LintRule::noise_twice).empty());
    Tier both = linted_tier("x", Scope::model, "none like it");
    both.pins = {{Field::noise_elsewhere, Pin::constant({0, "on"})}, {Field::colour_noise, linted_number(5)}};
    mended(linted_revision({both}), LintRule::noise_twice);
}

TEST_CASE("lint: a body tier for a body whose files carry no serial number moves to its model", "[baselines]") {
    Tier b = linted_tier("b", Scope::body, "Q2/a");
    b.pins[Field::exposure] = linted_number(1);
    const Revision after = mended(linted_revision({b}), LintRule::body_names_itself_not);
    REQUIRE(after.tiers.size() == 1);
    CHECK(after.tiers[0].scope == Scope::model);
    CHECK(after.tiers[0].pins.count(Field::exposure));
    b.iso_span = {{800, 3200}};  // what narrowed it still does
    CHECK(mended(linted_revision({b}), LintRule::body_names_itself_not).tiers[0].iso_span == b.iso_span);
}

TEST_CASE("lint: one profile for a body that is seen with several lenses", "[baselines]") {
    Tier b = linted_tier("b", Scope::body, "B2/1");
    b.pins[Field::lens_profile] = Pin::constant({0, "p7"});
    mended(linted_revision({b}), LintRule::profile_for_several_lenses);
    b.target = "B2/2";
    CHECK(found(linted_revision({b}), LintRule::profile_for_several_lenses).empty());
    b.target = "B2/1";
    b.lens_condition = LensCondition::model;
    b.lens = "Lumenfold 35mm f/2.8";
    CHECK(found(linted_revision({b}), LintRule::profile_for_several_lenses).empty());
}

TEST_CASE("lint: a ramp used beyond its knots", "[baselines]") {
    Tier m = linted_tier("m", Scope::model, "B2");
    m.pins[Field::luminance_noise] = {{{200, {5, ""}}, {1600, {30, ""}}}};
    const auto f = found(linted_revision({m}), LintRule::ramp_too_short);
    REQUIRE(f.size() == 1);
    CHECK(f[0].frames == 5);
    const Revision after = mended(linted_revision({m}), LintRule::ramp_too_short);
    const Pin& pin = after.tiers[0].pins.at(Field::luminance_noise);
    CHECK(pin.knots.front().first == 100);
    CHECK(pin.knots.back().first == 6400);
    for (const double iso : {100.0, 200.0, 800.0, 6400.0})
        CHECK(pin.at(Field::luminance_noise, iso) == m.pins[Field::luminance_noise].at(Field::luminance_noise, iso));
}

TEST_CASE("lint: mixed conditions, tiers without frames, bodies without a tier", "[baselines]") {
    const Revision r =
        linted_revision({linted_tier("m", Scope::model, "B2"), linted_tier("lost", Scope::body, "B2/9")});
    CHECK(found(r, LintRule::mixed_conditions).size() == 1);
    CHECK(found(r, LintRule::mixed_conditions)[0].remedy.empty());
    CHECK(mend(r, found(r, LintRule::mixed_conditions)[0], groups, fleet).after.tiers == r.tiers);
    CHECK(mended(r, LintRule::no_frame).tiers.size() == 1);
    const Revision covered = mended(r, LintRule::body_uncovered);
    CHECK(covered.tiers.back().target == "Q2");
    for (const LintFinding& f : lint(r, {}, fleet))
        CHECK(f.rule != LintRule::no_frame);  // without frames nothing can be said
    for (int i = 0; i <= static_cast<int>(LintRule::body_uncovered); ++i)
        CHECK_FALSE(to_string(static_cast<LintRule>(i)).empty());
}

TEST_CASE("reach counts bodies and frames, group by group", "[baselines]") {
    const Tier m = linted_tier("m", Scope::model, "B2");
    Tier span = linted_tier("b", Scope::body, "B2/1");
    span.iso_span = {{100, 800}};
    const Reach of_model = reach_of(m, groups, fleet);
    CHECK(of_model.frames == 9);
    CHECK(of_model.bodies == 2);
    CHECK(of_model.bodies_seen == 2);
    CHECK(reach_of(span, groups, fleet).frames == 3);
    const auto all = reach_of_all(Resolver(linted_revision({m, span, linted_tier("s")})), groups, fleet);
    CHECK(all.at("m").frames == 9);
    CHECK(all.at("b").frames == 3);
    CHECK(all.at("s").bodies == 3);
    int visited = 0;
    GroupIndex(groups).reached_by(m, [&](const FactsGroup& g) { visited += g.frames; });
    CHECK(visited == 9);
    std::vector<FrameFacts> frames;
    for (const FactsGroup& g : groups)
        for (int i = 0; i < g.frames; ++i) frames.push_back(g.facts);
    std::reverse(frames.begin(), frames.end());
    CHECK(FactsOfFrames(frames).groups().size() == groups.size());
}

TEST_CASE("what a change reaches is told by body, and by the changed tier alone comes out the same", "[baselines]") {
    Tier s = linted_tier("s");
    s.pins[Field::exposure] = linted_number(0.5);
    Tier m = linted_tier("m", Scope::model, "B2");
    const Revision before = linted_revision({s, m});
    Revision after = before;
    after.tier("m")->pins[Field::exposure] = {{{100, {0.5, ""}}, {800, {1, ""}}}};
    const Resolver a(before), b(after);
    const ChangedValues all = changed_values(a, b, Field::exposure, groups, fleet);
    CHECK(all.frames == 6);
    REQUIRE(all.bodies.size() == 2);
    CHECK(all.bodies[0].label == "Infrared");
    CHECK(all.bodies[0].was == "0.50 EV");
    CHECK(all.bodies[0].is == "1.00 EV");
    const ChangedValues narrow = changed_values(a, b, *after.tier("m"), Field::exposure, GroupIndex(groups), fleet);
    CHECK(narrow.frames == all.frames);
    CHECK(narrow.bodies.size() == all.bodies.size());
}

TEST_CASE("a body that has no frame at an ISO is taken to record what it does at the nearest", "[baselines]") {
    std::vector<FactsGroup> seen = groups;
    seen[0].facts.recorded.sharpness = 1;
    seen[1].facts.recorded.sharpness = 2;
    const RecordedSettings habits(seen);
    CHECK(habits.at("B2", "B2/1", 200).recorded.sharpness == 1);
    CHECK(habits.at("B2", "B2/1", 3200).recorded.sharpness == 2);
    CHECK(habits.at("B2", "B2/1", 3200).iso == 6400);
    CHECK(habits.at("B2", "B2/7", 100).recorded.sharpness == 1);  // of its model
    CHECK(habits.at("none", "", 100).iso == 0);
    CHECK(values_of(seen[1].facts.recorded).size() == 1);
}

TEST_CASE("lint: a pin that does nothing beside what else its frames get", "[baselines]") {
    Tier s = linted_tier("s");
    s.pins = {{Field::temperature, linted_number(4500)},
              {Field::sharpening_radius, linted_number(2)},
              {Field::border_scale, linted_number(1.05)}};
    const auto f = found(linted_revision({s}), LintRule::inert_pin);
    CHECK(f.size() == 3);
    // What makes them act, in the same tier or in another one.
    s.pins[Field::white_balance] = Pin::constant({0, "fixed"});
    s.pins[Field::border] = Pin::constant({0, "scale"});
    Tier b = linted_tier("b", Scope::body, "B2/1");
    b.pins[Field::sharpening_amount] = linted_number(40);
    CHECK(found(linted_revision({s, b}), LintRule::inert_pin).empty());
    Tier alone = linted_tier("s");
    alone.pins = {{Field::exposure, linted_number(1)}, {Field::tint, linted_number(5)}};
    CHECK(mended(linted_revision({alone}), LintRule::inert_pin).tiers[0].pins.size() == 1);
}

TEST_CASE("lint: ramps of words, and models that no frame has", "[baselines]") {
    Tier s = linted_tier("s");
    s.pins[Field::rendering] = {{{100, {0, "neutral"}}, {6400, {0, "monochrome"}}}};
    CHECK(found(linted_revision({s}), LintRule::ramp_of_words).size() == 1);
    Tier m = linted_tier("m", Scope::model, "B3");
    m.pins[Field::exposure] = linted_number(1);
    const auto f = found(linted_revision({m}), LintRule::unknown_model);
    REQUIRE(f.size() == 1);
    CHECK(f[0].sentence.find("nearest") != std::string::npos);
    CHECK(found(linted_revision({m}), LintRule::no_frame).empty());  // said once
    CHECK(mended(linted_revision({m}), LintRule::unknown_model).tiers.empty());
}

TEST_CASE("lint: mending comes to an end, and each remedy leaves less to find", "[baselines]") {
    Tier s = linted_tier("s"), b = linted_tier("b", Scope::body, "Q2/a"), n = linted_tier("n", Scope::model, "B2");
    s.pins = {{Field::contrast, linted_number(10)}, {Field::luminance_noise, linted_number(20)}};
    b.pins[Field::exposure] = linted_number(1);
    n.pins[Field::noise_elsewhere] = Pin::constant({0, "on"});
    Revision r = linted_revision({s, b, n});
    std::size_t left = lint(r, groups, fleet).size();
    bool again = true;
    for (int round = 0; again; ++round) {
        REQUIRE(round < 100);
        again = false;
        for (const LintFinding& f : lint(r, groups, fleet)) {
            const LintFix m = mend(r, f, groups, fleet);
            if (!m.done()) {
                CHECK_FALSE(m.refused.empty());
                continue;
            }
            r = m.after;
            const std::size_t now = lint(r, groups, fleet).size();
            CHECK(now < left);
            left = now;
            again = true;
            break;
        }
    }
}
