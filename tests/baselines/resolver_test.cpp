#include "baselines/resolver.h"

#include <algorithm>

#include <catch2/catch.hpp>
#include <cmath>
#include <random>

#include "optics/profile.h"

using namespace optrel;

namespace {

Tier tier(const char* id, Scope scope, const char* target = "") {
    Tier t;
    t.id = t.name = id;
    t.scope = scope;
    t.target = target;
    return t;
}

Pin number(double v) { return Pin::constant({v, ""}); }

/// The tiers of the worked examples.
std::vector<Tier> worked_tiers() {
    Tier s = tier("S", Scope::studio);
    s.pins = {{Field::sharpening_amount, number(25)}, {Field::colour_noise, number(20)}};
    Tier m = tier("M", Scope::model, "B2");
    m.pins[Field::luminance_noise] = {{{100, {0, ""}}, {800, {20, ""}}, {1600, {40, ""}}}};
    Tier p = tier("P", Scope::body, "B2/0117");
    p.pins[Field::sharpening_amount] = number(0);
    Tier q = tier("Q", Scope::body, "B2/0117");
    q.iso_span = {{1600, 6400}};
    q.pins[Field::luminance_noise] = number(55);
    Tier l = tier("L", Scope::body, "B2/0117");
    l.lens_condition = LensCondition::copy;
    l.lens = "88";
    l.pins[Field::lens_profile] = Pin::constant({0, "p7"});
    return {s, m, p, q, l};
}

FrameFacts known(double iso) {
    FrameFacts f;
    f.model = "B2";
    f.body = "B2/0117";
    f.body_knowledge = BodyKnowledge::known;
    f.iso = iso;
    return f;
}

struct Expected {
    double sharpening;
    const char* sharpening_from;
    double luminance;
    const char* luminance_from;
    double colour;
    const char* colour_from;
    const char* profile;
    const char* profile_from;
};

void expect(const FrameFacts& facts, const Expected& e) {
    const Resolver resolver(worked_tiers(), canonical_lens_text);
    ResolvedFrame r;
    resolver.resolve(facts, r);
    const auto from = [&](Field f) { return r[f].tier ? r[f].tier->id : std::string("start"); };
    CHECK(r[Field::sharpening_amount].value.number == e.sharpening);
    CHECK(from(Field::sharpening_amount) == e.sharpening_from);
    CHECK(r[Field::luminance_noise].value.number == Approx(e.luminance).margin(5e-4));
    CHECK(from(Field::luminance_noise) == e.luminance_from);
    CHECK(r[Field::colour_noise].value.number == e.colour);
    CHECK(from(Field::colour_noise) == e.colour_from);
    CHECK(r[Field::lens_profile].value.text == e.profile);
    CHECK(from(Field::lens_profile) == e.profile_from);
}

/// A resolver written straight from the text: every tier is asked, sorted, applied field by field.
ResolvedFrame plain_resolve(std::vector<Tier>& tiers, const FrameFacts& f) {
    std::vector<const Tier*> applying;
    for (const Tier& t : tiers) {
        bool holds = f.raw ? t.raw : t.rendered;
        if (t.scope == Scope::model) holds = holds && t.target == f.model;
        if (t.scope == Scope::body) holds = holds && f.body_knowledge != BodyKnowledge::unknown && t.target == f.body;
        if (t.lens_condition == LensCondition::model) holds = holds && !f.lens.empty() && canonical_lens_text(t.lens) == f.lens;
        if (t.lens_condition == LensCondition::copy) holds = holds && !f.lens_copy.empty() && t.lens == f.lens_copy;
        if (t.iso_span) holds = holds && f.iso >= t.iso_span->first && f.iso <= t.iso_span->second;
        if (holds) applying.push_back(&t);
    }
    std::sort(applying.begin(), applying.end(), [](const Tier* a, const Tier* b) { return std::tuple(a->rank(), a->id) < std::tuple(b->rank(), b->id); });
    ResolvedFrame out = neutral_start();
    for (const Tier* t : applying)
        for (const auto& [field, pin] : t->pins) out.fields[static_cast<int>(field)] = {pin.at(field, f.iso), t};
    return out;
}

std::vector<Tier> random_tiers(std::mt19937& random, int count) {
    std::vector<Tier> tiers;
    for (int i = 0; i < count; ++i) {
        Tier t = tier("", static_cast<Scope>(random() % 3));
        t.id = t.name = "t" + std::to_string(i);
        const std::string model = "M" + std::to_string(random() % 3);
        t.target = t.scope == Scope::model ? model : t.scope == Scope::body ? model + "/" + std::to_string(random() % 3) : "";
        t.lens_condition = static_cast<LensCondition>(random() % 3);
        t.lens = t.lens_condition == LensCondition::model ? "Lens " + std::to_string(random() % 2) : t.lens_condition == LensCondition::copy ? "copy" + std::to_string(random() % 2) : "";
        if (random() % 3 == 0) t.iso_span = {{100.0 * (1 << random() % 4), 1600.0 * (1 << random() % 3)}};
        t.rendered = random() % 4 == 0;
        t.raw = !t.rendered || random() % 2;
        for (int p = 0; p < 1 + static_cast<int>(random() % 4); ++p) {
            const Field f = static_cast<Field>(static_cast<int>(Field::exposure) + random() % 7);
            Pin pin = number(random() % 3);
            if (random() % 2) pin = {{{100, {double(random() % 5), ""}}, {800, {double(random() % 5), ""}}, {6400, {double(random() % 5), ""}}}};
            t.pins[f] = pin;
        }
        tiers.push_back(t);
    }
    return tiers;
}

FrameFacts random_frame(std::mt19937& random) {
    FrameFacts f;
    f.raw = random() % 5 != 0;
    f.model = "M" + std::to_string(random() % 3);
    f.body = f.model + "/" + std::to_string(random() % 3);
    f.body_knowledge = static_cast<BodyKnowledge>(random() % 3);
    f.lens = random() % 3 ? canonical_lens_text("Lens " + std::to_string(random() % 2)) : "";
    f.lens_copy = random() % 3 ? "copy" + std::to_string(random() % 2) : "";
    f.iso = random() % 10 ? 50 * std::exp2(random() % 10) : 0;
    return f;
}

}  // namespace

TEST_CASE("the worked examples hold", "[baselines]") {
    SECTION("raw, B2/0117, ISO 100") { expect(known(100), {0, "P", 0, "M", 20, "S", "automatic", "start"}); }
    SECTION("raw, B2/0117, ISO 400") { expect(known(400), {0, "P", 13.333, "M", 20, "S", "automatic", "start"}); }
    SECTION("raw, B2/0117, ISO 1600") { expect(known(1600), {0, "P", 55, "Q", 20, "S", "automatic", "start"}); }
    SECTION("raw, B2/0117, ISO 12800, lens copy 88") {
        FrameFacts f = known(12800);
        f.lens_copy = "88";
        expect(f, {0, "P", 40, "M", 20, "S", "p7", "L"});
    }
    SECTION("raw, B2, no serial, two B2 in the fleet, ISO 1131") {
        FrameFacts f;
        f.model = "B2";
        f.iso = 1131;
        expect(f, {25, "S", 29.991, "M", 20, "S", "automatic", "start"});
    }
    SECTION("raw, another model, ISO 100") {
        FrameFacts f;
        f.model = "T7";
        f.body = "T7/1";
        f.body_knowledge = BodyKnowledge::known;
        f.iso = 100;
        expect(f, {25, "S", 0, "start", 20, "S", "automatic", "start"});
    }
    SECTION("rendered, B2/0117, ISO 1600") {
        FrameFacts f = known(1600);
        f.raw = false;
        expect(f, {0, "start", 0, "start", 0, "start", "automatic", "start"});
    }
}

TEST_CASE("the resolver equals a plain one on random tiers and frames", "[baselines]") {
    std::mt19937 random(11);
    for (int round = 0; round < 60; ++round) {
        std::vector<Tier> tiers = random_tiers(random, 25);
        const Resolver resolver(tiers, canonical_lens_text);
        for (int k = 0; k < 60; ++k) {
            const FrameFacts f = random_frame(random);
            ResolvedFrame fast;
            resolver.resolve(f, fast);
            const ResolvedFrame slow = plain_resolve(tiers, f);
            for (int i = 0; i < field_count; ++i) {
                REQUIRE(fast.fields[i].value.number == Approx(slow.fields[i].value.number));
                REQUIRE(fast.fields[i].value.text == slow.fields[i].value.text);
                REQUIRE((fast.fields[i].tier ? fast.fields[i].tier->id : "") == (slow.fields[i].tier ? slow.fields[i].tier->id : ""));
            }
        }
    }
}

TEST_CASE("the order of definition never matters", "[baselines]") {
    std::mt19937 random(12);
    for (int round = 0; round < 20; ++round) {
        std::vector<Tier> tiers = random_tiers(random, 20), shuffled = tiers;
        std::shuffle(shuffled.begin(), shuffled.end(), random);
        const Resolver a(tiers, canonical_lens_text), b(shuffled, canonical_lens_text);
        for (int k = 0; k < 40; ++k) {
            const FrameFacts f = random_frame(random);
            ResolvedFrame x, y;
            a.resolve(f, x);
            b.resolve(f, y);
            for (int i = 0; i < field_count; ++i) REQUIRE(x.fields[i].value == y.fields[i].value);
        }
    }
}

TEST_CASE("every resolved value has exactly one winner in its trace", "[baselines]") {
    std::mt19937 random(13);
    for (int round = 0; round < 20; ++round) {
        const Resolver resolver(random_tiers(random, 20), canonical_lens_text);
        for (int k = 0; k < 20; ++k) {
            const FrameFacts f = random_frame(random);
            ResolvedFrame r;
            resolver.resolve(f, r);
            for (const FieldInfo& field : all_fields()) {
                const auto trace = resolver.trace(f, field.field);
                int winners = 0;
                for (const TraceStep& step : trace) winners += step.won;
                REQUIRE(winners == 1);
                REQUIRE(trace.front().tier == nullptr);
                REQUIRE(trace.back().won);
                REQUIRE(trace.back().value == r[field.field].value);
                REQUIRE(trace.back().tier == r[field.field].tier);
            }
        }
    }
}

TEST_CASE("a trace tells all that was overridden, in order", "[baselines]") {
    const Resolver resolver(worked_tiers(), canonical_lens_text);
    const auto trace = resolver.trace(known(1600), Field::luminance_noise);
    REQUIRE(trace.size() == 3);
    CHECK(trace[1].tier->id == "M");
    CHECK(trace[1].value.number == 40);
    CHECK_FALSE(trace[1].won);
    CHECK(trace[2].tier->id == "Q");
    FrameFacts assumed = known(12800);
    assumed.body_knowledge = BodyKnowledge::assumed;
    CHECK(resolver.trace(assumed, Field::sharpening_amount).back().remark.find("assumed") != std::string::npos);
    CHECK(resolver.trace(assumed, Field::luminance_noise).back().remark.find("beyond") != std::string::npos);
}

TEST_CASE("ramps are linear in stops and constant beyond their ends", "[baselines]") {
    const Pin ramp{{{100, {0, ""}}, {800, {20, ""}}}};
    CHECK(ramp.at(Field::luminance_noise, 50).number == 0);
    CHECK(ramp.at(Field::luminance_noise, 200).number == Approx(20.0 / 3));
    CHECK(ramp.at(Field::luminance_noise, 800).number == 20);
    CHECK(ramp.at(Field::luminance_noise, 1e6).number == 20);
    const Pin steps{{{100, {0, "keep"}}, {800, {0, "fill"}}}};
    CHECK(steps.at(Field::border, 799).text == "keep");
    CHECK(steps.at(Field::border, 800).text == "fill");
    CHECK(steps.at(Field::border, 50).text == "keep");
}

TEST_CASE("a frame without ISO is reached by no tier with a span", "[baselines]") {
    const Resolver resolver(worked_tiers(), canonical_lens_text);
    ResolvedFrame r;
    resolver.resolve(known(0), r);
    CHECK(r[Field::luminance_noise].tier->id == "M");
    CHECK(r[Field::luminance_noise].value.number == 0);
}
