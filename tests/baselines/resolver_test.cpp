// SPDX-License-Identifier: GPL-3.0-or-later
#include "baselines/resolver.h"

#include <algorithm>

#include <catch2/catch.hpp>
#include <cmath>
#include <map>
#include <random>

#include "optics/lens_text.h"

using namespace optrel;

namespace {

Tier example_tier(const char* id, Scope scope, const char* target = "") {
    Tier t;
    t.id = t.name = id;
    t.scope = scope;
    t.target = target;
    return t;
}

Pin example_number(double v) { return Pin::constant({v, ""}); }

/// The tiers of the worked examples.
std::vector<Tier> worked_tiers() {
    Tier s = example_tier("S", Scope::studio);
    s.pins = {{Field::sharpening_amount, example_number(25)}, {Field::colour_noise, example_number(20)}};
    Tier m = example_tier("M", Scope::model, "B2");
    m.pins[Field::luminance_noise] = {{{100, {0, ""}}, {800, {20, ""}}, {1600, {40, ""}}}};
    Tier p = example_tier("P", Scope::body, "B2/0117");
    p.pins[Field::sharpening_amount] = example_number(0);
    Tier q = example_tier("Q", Scope::body, "B2/0117");
    q.iso_span = {{1600, 6400}};
    q.pins[Field::luminance_noise] = example_number(55);
    Tier l = example_tier("L", Scope::body, "B2/0117");
    l.lens_condition = LensCondition::copy;
    l.lens = "88";
    l.pins[Field::lens_profile] = Pin::constant({0, "p7"});
    return {s, m, p, q, l};
}

Revision with_tiers(std::vector<Tier> tiers) {
    Revision r;
    r.tiers = std::move(tiers);
    return r;
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
    const Resolver resolver(with_tiers(worked_tiers()));
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

/// Everything that a list of sets and own pins says, written straight from the text.
void plain_sayings(const Revision& r, const std::vector<std::string>& sets, const Pins& own, double iso,
                   std::map<Field, Value>& out) {
    for (const std::string& name : sets)
        for (const PinSet& s : r.sets)
            if (s.name == name) plain_sayings(r, s.sets, s.pins, iso, out);
    for (const auto& [field, pin] : own) out[field] = pin.at(field, iso);
}

void plain_start(const Revision& r, const std::string& start, const FrameFacts& f, std::map<Field, Value>& out) {
    if (start == "as recorded" && f.raw) {
        for (const auto& [field, value] : values_of(f.recorded)) out[field] = value;
        if (const auto adds = r.recorded_adds.find(f.model); adds != r.recorded_adds.end())
            for (const auto& [field, pin] : adds->second) out[field] = pin.at(field, f.iso);
    }
    if (start.rfind("set ", 0) == 0) {
        std::map<Field, Value> said;
        plain_sayings(r, {start.substr(4)}, {}, f.iso, said);
        if (said.count(Field::start)) plain_start(r, said[Field::start].text, f, out);
        for (const auto& [field, value] : said) out[field] = value;
    }
}

/// A resolver written straight from the text: every tier is asked, sorted, applied field by field.
ResolvedFrame plain_resolve(const Revision& r, const FrameFacts& f) {
    std::vector<const Tier*> applying;
    for (const Tier& t : r.tiers) {
        bool holds = f.raw ? t.raw : t.rendered;
        if (t.scope == Scope::model) holds = holds && t.target == f.model;
        if (t.scope == Scope::body) holds = holds && f.body_knowledge != BodyKnowledge::unknown && t.target == f.body;
        if (t.lens_condition == LensCondition::model)
            holds = holds && !f.lens.empty() && canonical_lens_text(t.lens) == f.lens;
        if (t.lens_condition == LensCondition::copy) holds = holds && !f.lens_copy.empty() && t.lens == f.lens_copy;
        if (t.iso_span) holds = holds && f.iso >= t.iso_span->first && f.iso <= t.iso_span->second;
        if (holds) applying.push_back(&t);
    }
    std::sort(applying.begin(), applying.end(),
              [](const Tier* a, const Tier* b) { return std::tuple(a->rank(), a->id) < std::tuple(b->rank(), b->id); });
    std::map<Field, std::pair<Value, const Tier*>> pinned;
    for (const Tier* t : applying) {
        std::map<Field, Value> said;
        plain_sayings(r, t->sets, t->pins, f.iso, said);
        for (const auto& [field, value] : said) pinned[field] = {value, t};
    }
    ResolvedFrame out = neutral_start();
    std::map<Field, Value> start;
    plain_start(r, pinned.count(Field::start) ? pinned[Field::start].first.text : "neutral", f, start);
    start.erase(Field::start);
    for (const auto& [field, value] : start) out.fields[static_cast<int>(field)] = {value, nullptr, nullptr};
    for (const auto& [field, said] : pinned) out.fields[static_cast<int>(field)] = {said.first, said.second, nullptr};
    return out;
}

/// Sets that build on one another, never in a circle, and a register that adds to what cameras record.
void add_random_sets(std::mt19937& random, Revision& r) {
    for (int i = 0; i < 6; ++i) {
        PinSet s{"set" + std::to_string(i), "", {}, {}};
        for (int k = 0; k < i; ++k)
            if (random() % 4 == 0) s.sets.push_back("set" + std::to_string(k));
        for (int p = 0; p < 3; ++p)
            s.pins[static_cast<Field>(static_cast<int>(Field::exposure) + random() % 5)] = example_number(random() % 4);
        for (auto& [field, pin] : s.pins)
            if (info(field).type == FieldType::flag) pin = Pin::constant({0, random() % 2 ? "on" : "off"});
        if (i > 0 && random() % 3 == 0)
            s.pins[Field::start] = Pin::constant(random() % 2 ? value_of_set("set" + std::to_string(random() % i))
                                                              : Value{0, "as recorded"});
        r.sets.push_back(s);
    }
    for (Tier& t : r.tiers) {
        if (random() % 3 == 0) t.sets.push_back("set" + std::to_string(random() % 6));
        if (random() % 6 == 0) t.sets.push_back("set" + std::to_string(random() % 6));
        if (random() % 5 == 0)
            t.pins[Field::start] = Pin::constant(random() % 2 ? Value{0, "as recorded"}
                                                              : value_of_set("set" + std::to_string(random() % 6)));
    }
    r.recorded_adds["M1"][Field::luminance_noise] = {{{100, {5, ""}}, {6400, {50, ""}}}};
}

std::vector<Tier> random_tiers(std::mt19937& random, int count) {
    std::vector<Tier> tiers;
    for (int i = 0; i < count; ++i) {
        Tier t = example_tier("", static_cast<Scope>(random() % 3));
        t.id = t.name = "t" + std::to_string(i);
        const std::string model = "M" + std::to_string(random() % 3);
        t.target.clear();
        if (t.scope == Scope::model) t.target = model;
        if (t.scope == Scope::body) t.target = model + "/" + std::to_string(random() % 3);
        t.lens_condition = static_cast<LensCondition>(random() % 3);
        t.lens.clear();
        if (t.lens_condition == LensCondition::model) t.lens = "Lens " + std::to_string(random() % 2);
        if (t.lens_condition == LensCondition::copy) t.lens = "copy" + std::to_string(random() % 2);
        if (random() % 3 == 0) t.iso_span = {{100.0 * (1 << random() % 4), 1600.0 * (1 << random() % 3)}};
        t.rendered = random() % 4 == 0;
        t.raw = !t.rendered || random() % 2;
        for (int p = 0; p < 1 + static_cast<int>(random() % 4); ++p) {
            const Field some[] = {Field::exposure,        Field::black_point,       Field::contrast, Field::saturation,
                                  Field::luminance_noise, Field::sharpening_amount, Field::tint};
            const Field f = some[random() % 7];
            Pin pin = example_number(random() % 3);
            if (random() % 2)
                pin = {{{100, {double(random() % 5), ""}},
                        {800, {double(random() % 5), ""}},
                        {6400, {double(random() % 5), ""}}}};
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
    if (random() % 2)
        f.recorded = {static_cast<signed char>(random() % 4 - 1), static_cast<signed char>(random() % 4 - 1),
                      static_cast<signed char>(random() % 4 - 1), random() % 2 == 0};
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
        Revision revision = with_tiers(random_tiers(random, 25));
        if (round % 3) add_random_sets(random, revision);
        REQUIRE_NOTHROW(check_sets(revision));
        const Resolver resolver(revision);
        for (int k = 0; k < 60; ++k) {
            const FrameFacts f = random_frame(random);
            ResolvedFrame fast;
            resolver.resolve(f, fast);
            const ResolvedFrame slow = plain_resolve(revision, f);
            for (int i = 0; i < field_count; ++i) {
                REQUIRE(fast.fields[i].value.number == Approx(slow.fields[i].value.number));
                REQUIRE(fast.fields[i].value.text == slow.fields[i].value.text);
                REQUIRE((fast.fields[i].tier ? fast.fields[i].tier->id : "") ==
                        (slow.fields[i].tier ? slow.fields[i].tier->id : ""));
                const ResolvedField one = resolver.resolve(f, static_cast<Field>(i));
                REQUIRE(one.value == fast.fields[i].value);
                REQUIRE(one.tier == fast.fields[i].tier);
            }
        }
    }
}

TEST_CASE("the order of definition never matters", "[baselines]") {
    std::mt19937 random(12);
    for (int round = 0; round < 20; ++round) {
        Revision revision = with_tiers(random_tiers(random, 20));
        add_random_sets(random, revision);
        Revision shuffled = revision;
        std::shuffle(shuffled.tiers.begin(), shuffled.tiers.end(), random);
        std::shuffle(shuffled.sets.begin(), shuffled.sets.end(), random);
        const Resolver a(revision), b(shuffled);
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
        Revision revision = with_tiers(random_tiers(random, 20));
        add_random_sets(random, revision);
        const Resolver resolver(revision);
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
                REQUIRE(trace.back().set == r[field.field].set);
            }
        }
    }
}

TEST_CASE("a trace tells all that was overridden, in order", "[baselines]") {
    const Resolver resolver(with_tiers(worked_tiers()));
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
    const Resolver resolver(with_tiers(worked_tiers()));
    ResolvedFrame r;
    resolver.resolve(known(0), r);
    CHECK(r[Field::luminance_noise].tier->id == "M");
    CHECK(r[Field::luminance_noise].value.number == 0);
}

TEST_CASE("a set speaks before the tier's own pins, and sets before later sets", "[baselines]") {
    Revision r;
    r.sets = {{"fronds", "", {}, {{Field::exposure, example_number(1)}, {Field::tint, example_number(5)}}},
              {"drawers", "", {"fronds"}, {{Field::exposure, example_number(2)}}}};
    Tier t = example_tier("S", Scope::studio);
    t.sets = {"drawers"};
    t.pins[Field::tint] = example_number(7);
    r.tiers = {t};
    const Resolver resolver(r);
    ResolvedFrame f;
    resolver.resolve(known(100), f);
    CHECK(f[Field::exposure].value.number == 2);
    CHECK(f[Field::exposure].set->name == "drawers");
    CHECK(f[Field::tint].value.number == 7);
    CHECK(f[Field::tint].set == nullptr);
    const auto trace = resolver.trace(known(100), Field::exposure);
    REQUIRE(trace.size() == 3);
    CHECK(trace[1].set->name == "fronds");
    CHECK(trace[2].remark.find("drawers") != std::string::npos);
}

TEST_CASE("the start is resolved first: as recorded means what the body writes, a set what it holds", "[baselines]") {
    Revision r;
    r.sets = {{"copy stand",
               "",
               {},
               {{Field::sharpening_amount, example_number(33)}, {Field::start, Pin::constant({0, "as recorded"})}}}};
    Tier studio = example_tier("S", Scope::studio);
    studio.rendered = true;
    studio.pins[Field::start] = Pin::constant({0, "as recorded"});
    Tier own = example_tier("P", Scope::body, "B2/0117");
    own.pins[Field::start] = Pin::constant(value_of_set("copy stand"));
    r.tiers = {studio, own};
    r.recorded_adds["T7"][Field::luminance_noise] = {{{100, {0, ""}}, {6400, {60, ""}}}};
    const Resolver resolver(r);
    FrameFacts f;
    f.model = "T7";
    f.iso = 800;
    f.recorded.sharpness = 2;
    f.recorded.contrast = 1;
    ResolvedFrame out;
    resolver.resolve(f, out);
    CHECK(out[Field::sharpening_amount].value.number == 60);
    CHECK(out[Field::contrast].value.number == -25);
    CHECK(out[Field::luminance_noise].value.number == Approx(30));
    CHECK(out[Field::luminance_noise].tier == nullptr);
    CHECK(resolver.trace(f, Field::luminance_noise).back().source == "start: as recorded");
    f.raw = false;  // a rendered file never starts from what was recorded
    resolver.resolve(f, out);
    CHECK(out[Field::contrast].value.number == 0);
    FrameFacts b = known(100);
    b.recorded.contrast = 2;
    b.recorded.sharpness = 1;
    resolver.resolve(b, out);
    CHECK(out[Field::sharpening_amount].value.number == 33);
    CHECK(out[Field::contrast].value.number == 25);
    CHECK(resolver.trace(b, Field::sharpening_amount).back().source == "start: set copy stand");
}

TEST_CASE("a trace names the measurement behind a pin, and a newer version of it", "[baselines]") {
    Tier t = example_tier("S", Scope::studio);
    t.pins[Field::luminance_noise] = {{{100, {0, ""}}, {800, {20, ""}}}, MeasurementReference{"n1", 2}};
    const Resolver resolver(with_tiers({t}));
    FrameFacts facts = known(400);
    const auto remark = [&] { return resolver.trace(facts, Field::luminance_noise).back().remark; };
    CHECK(remark() == "derived from measurement n1 version 2");
    facts.measured = {{"p7", 9}, {"n1", 2}};
    CHECK(remark() == "derived from measurement n1 version 2, the current one of this frame");
    facts.measured = {{"n1", 3}};
    CHECK(remark() == "derived from measurement n1 version 2; version 3 is current");
}
