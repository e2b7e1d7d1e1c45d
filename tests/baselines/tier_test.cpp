// SPDX-License-Identifier: GPL-3.0-or-later
#include "baselines/difference.h"

#include <fmt/format.h>

#include <catch2/catch.hpp>

#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

Tier exposure_tier(const char* id, Scope scope = Scope::studio, const char* target = "") {
    Tier t;
    t.id = t.name = id;
    t.scope = scope;
    t.target = target;
    t.pins[Field::exposure] = Pin::constant({0.5, ""});
    return t;
}

Revision revision_with(std::vector<Tier> tiers) {
    Revision r;
    r.tiers = std::move(tiers);
    return r;
}

Revision sample_revision() {
    Revision r;
    r.number = 3;
    r.author = "Iva";
    r.note = "after the lamps were changed";
    Tier a = exposure_tier("a");
    a.pins[Field::border] = Pin::constant({0, "fill"});
    Tier b = exposure_tier("b", Scope::body, "B2/1");
    b.iso_span = {{1600, 6400}};
    b.lens_condition = LensCondition::model;
    b.lens = "Lumenfold 35mm f/2.8";
    b.rendered = true;
    b.pins[Field::luminance_noise] = {{{100, {0, ""}}, {800, {20, ""}}}};
    b.sets = {"drawers"};
    r.tiers = {a, b};
    r.sets = {{"fronds", "soft things", {}, {{Field::tint, Pin::constant({3, ""})}}},
              {"drawers", "", {"fronds"}, {{Field::start, Pin::constant({0, "as recorded"})}}}};
    r.recorded_adds["T7"][Field::colour_noise] = Pin::constant({10, ""});
    return r;
}

}  // namespace

TEST_CASE("a field is named by its id or its label, in any case", "[baselines]") {
    for (const FieldInfo& f : all_fields()) {
        INFO(f.id);
        CHECK(field_named(f.id) == f.field);
        CHECK(field_named(f.label) == f.field);
    }
    for (const char* typed : {"LUMINANCE_NOISE", "luminance nr", "Luminance-NR", "luminance noise"})
        CHECK(field_named(typed) == Field::luminance_noise);
    CHECK(error_of([] { field_named("luminance"); }) == "usage");
    CHECK(error_of([] { field_named(""); }) == "usage");
}

TEST_CASE("values and texts of every field are inverse to each other", "[baselines]") {
    for (const FieldInfo& f : all_fields()) {
        CHECK(field_by_id(f.id) == f.field);
        CHECK(value_from_text(f.field, to_text(f.field, f.neutral)) == f.neutral);
        CHECK_FALSE(to_display(f.field, f.neutral).empty());
        CHECK(f.meaning.back() == '.');
        if (f.type == FieldType::number) {
            CHECK(f.low < f.high);
            CHECK(f.neutral.number >= f.low);
            CHECK(f.neutral.number <= f.high);
            const double odd = f.low + (f.high - f.low) / 3;
            CHECK(value_from_text(f.field, to_text(f.field, {odd, ""})).number == odd);
            CHECK(error_of([&] { value_from_text(f.field, to_text(f.field, {f.high * 1.01 + 1, ""})); }) == "input");
            for (const char* bad : {"", "abc", "1x", "nan", "inf", "1,5", "--3"})
                CHECK(error_of([&] { value_from_text(f.field, bad); }) == "input");
        }
        if (f.type == FieldType::choice)
            CHECK(error_of([&] { value_from_text(f.field, "no such choice"); }) == "input");
    }
    CHECK(error_of([] { field_by_id("sharpness"); }) == "usage");
}

TEST_CASE("pins are written as people type them", "[baselines]") {
    CHECK(pin_from_text(Field::exposure, "0.5 EV") == Pin::constant({0.5, ""}));
    CHECK(pin_from_text(Field::exposure, " 0.5 ") == Pin::constant({0.5, ""}));
    CHECK(pin_from_text(Field::border, "fill") == Pin::constant({0, "fill"}));
    const Pin ramp = pin_from_text(Field::luminance_noise, "800: 20, 100:0");
    CHECK(ramp.knots == std::vector<std::pair<double, Value>>{{100, {0, ""}}, {800, {20, ""}}});
    CHECK(describe(Field::luminance_noise, ramp) == "100: 0, 800: 20");
    CHECK(pin_from_text(Field::exposure, describe(Field::exposure, pin_from_text(Field::exposure, "100:0,800:1")))
              .knots.size() == 2);
    for (const char* bad : {"", "x", "100:", ":5", "100:0,100:1", "-5:1", "100:0,,", "100:0;800:1", "100:999"})
        CHECK(error_of([&] { pin_from_text(Field::luminance_noise, bad); }) == "input");
}

TEST_CASE("conditions are told in words", "[baselines]") {
    CHECK(describe_conditions(exposure_tier("x")) == "studio");
    CHECK(describe_conditions(sample_revision().tiers[1]) ==
          "body B2/1, lens Lumenfold 35mm f/2.8, ISO 1600-6400, raw and rendered");
}

TEST_CASE("conflicts are found and named, overlaps of rank are none", "[baselines]") {
    const Tier a = exposure_tier("a", Scope::model, "B2"), b = exposure_tier("b", Scope::model, "B2");
    const auto conflicts = find_conflicts(revision_with({a, b}));
    REQUIRE(conflicts.size() == 1);
    CHECK(is_one_sentence(conflicts[0].sentence()));
    CHECK(conflicts[0].sentence().find("'a'") != std::string::npos);
    CHECK(conflicts[0].sentence().find("Exposure") != std::string::npos);
    CHECK(find_conflicts(revision_with({a, exposure_tier("c", Scope::model, "T7")})).empty());
    CHECK(find_conflicts(revision_with({a, exposure_tier("d", Scope::body, "B2/1")})).empty());
    Tier one = a, other = b;  // one lens in two spellings is one lens
    one.lens_condition = other.lens_condition = LensCondition::model;
    one.lens = "Lumenfold 35mm f/2.8";
    other.lens = "lumenfold 35 mm F2.8";
    CHECK(find_conflicts(revision_with({one, other})).size() == 1);
    other.lens = "Lumenfold 50mm f/2.8";
    CHECK(find_conflicts(revision_with({one, other})).empty());
    Tier low = a, high = b, apart = b;
    low.iso_span = {{100, 800}};
    high.iso_span = {{800, 3200}};
    apart.iso_span = {{1600, 3200}};
    CHECK(find_conflicts(revision_with({low, high})).size() == 1);
    CHECK(find_conflicts(revision_with({low, apart})).empty());
    Tier rendered = b;
    rendered.raw = false;
    rendered.rendered = true;
    CHECK(find_conflicts(revision_with({a, rendered})).empty());
    Tier other_field = b;
    other_field.pins = {{Field::tint, Pin::constant({1, ""})}};
    CHECK(find_conflicts(revision_with({a, other_field})).empty());
}

TEST_CASE("differences name tier, field, before and after", "[baselines]") {
    const Revision before = sample_revision();
    Revision after = before;
    after.tiers[0].pins[Field::exposure] = Pin::constant({1, ""});
    after.tiers[0].pins.erase(Field::border);
    after.tiers.erase(after.tiers.begin() + 1);
    after.tiers.push_back(exposure_tier("new", Scope::model, "T7"));
    const auto changes = difference(before, after);
    CHECK(changes.size() == 5);
    const auto has = [&](const char* t, const char* f, const char* x, const char* y) {
        return std::any_of(changes.begin(), changes.end(), [&](const RevisionChange& c) {
            return c.tier == t && c.field == f && c.before == x && c.after == y;
        });
    };
    CHECK(has("a", "Exposure", "0.50 EV", "1.00 EV"));
    CHECK(has("a", "Border", "fill", "inherits"));
    CHECK(has("new", "Exposure", "inherits", "0.50 EV"));
    CHECK(difference(before, before).empty());
}

TEST_CASE("a baseline survives its JSON", "[baselines]") {
    const std::string text = revision_to_json(sample_revision());
    const Revision back = revision_from_json(text, "test");
    CHECK(revision_to_json(back) == text);
    CHECK(back.number == 3);
    CHECK(difference(sample_revision(), back).empty());
}

TEST_CASE("bad baselines are refused in one sentence", "[baselines]") {
    const std::string good = revision_to_json(sample_revision());
    const auto replaced = [&](const std::string& from, const std::string& to) {
        std::string t = good;
        const auto at = t.find(from);
        REQUIRE(at != std::string::npos);
        return t.replace(at, from.size(), to);
    };
    std::vector<std::string> bad{"",
                                 "[]",
                                 "{",
                                 "null",
                                 "{}",
                                 good.substr(0, 100),
                                 replaced("\"format_version\": 2", "\"format_version\": 9"),
                                 replaced("\"exposure\": \"0.5\"", "\"exposure\": \"99\""),
                                 replaced("\"exposure\"", "\"glow\""),
                                 replaced("\"scope\": \"studio\"", "\"scope\": \"planet\""),
                                 replaced("\"id\": \"a\"", "\"id\": \"b\""),
                                 replaced("1600.0", "-3"),
                                 replaced("\"iso\": 800.0", "\"iso\": 100.0"),
                                 replaced("\"fronds\",\n   \"note\"", "\"drawers\",\n   \"note\""),
                                 replaced("\"as recorded\"", "\"set drawers\""),
                                 replaced("\"as recorded\"", "\"set nowhere\"")};
    for (const std::string& text : bad) {
        const std::string sentence = sentence_of([&] { revision_from_json(text, "Baseline.json"); });
        INFO(sentence);
        CHECK(is_one_sentence(sentence));
    }
}

TEST_CASE("a baseline of the format before is read", "[baselines]") {
    const Revision r = revision_from_json(
        R"({"format":"optrel-baseline","format_version":1,"number":2,"tiers":[{"id":"a","scope":"studio","pins":{"exposure":"0.5"}}]})",
        "test");
    CHECK(r.tiers.size() == 1);
    CHECK(r.sets.empty());
}

TEST_CASE("sets that come round to themselves are named with the circle", "[baselines]") {
    Revision r;
    r.sets = {{"a", "", {"b"}, {}}, {"b", "", {}, {{Field::start, Pin::constant(value_of_set("a"))}}}};
    const std::string sentence = sentence_of([&] { check_sets(r); });
    CHECK(is_one_sentence(sentence));
    CHECK(sentence.find("a → b → a") != std::string::npos);
    // What was never checked still ends.
    CHECK(sayings(r, {"a"}, {}).size() == 1);
    r.sets[1].pins.clear();
    CHECK_NOTHROW(check_sets(r));
    r.sets[0].sets.push_back("c");
    CHECK(error_of([&] { check_sets(r); }) == "input");
    for (const char* bad : {"", "a:b", "a,b", " a", "a\nb"}) CHECK(error_of([&] { check_set_name(bad); }) == "input");
}

TEST_CASE("sets go to another studio and back, and change their name everywhere", "[baselines]") {
    const Revision r = sample_revision();
    CHECK(sets_from_json(sets_to_json(r.sets), "test") == r.sets);
    for (const char* bad : {"", "{}", "[]", R"({"format":"optrel-sets","format_version":9,"sets":[]})",
                            R"({"format":"optrel-sets","sets":[{"name":"a","pins":{"glow":"1"}}]})",
                            R"({"format":"optrel-sets","sets":[{"name":"a","sets":["a"],"pins":{}}]})"})
        CHECK(error_of([&] { sets_from_json(bad, "Sets.json"); }) == "input");
    Revision renamed = r;
    renamed.tiers[0].pins[Field::start] = Pin::constant(value_of_set("fronds"));
    CHECK(users_of_set(renamed, "fronds") == std::vector<std::string>{"a", "set drawers"});
    rename_set(renamed, "fronds", "leaves");
    CHECK_NOTHROW(check_sets(renamed));
    CHECK(renamed.set("leaves"));
    CHECK(set_named_by(renamed.tiers[0].pins[Field::start].knots[0].second) == "leaves");
}

TEST_CASE("a set in a tier counts for its conflicts", "[baselines]") {
    Revision r;
    r.sets = {{"s", "", {}, {{Field::exposure, Pin::constant({1, ""})}}}};
    Tier a = exposure_tier("a", Scope::model, "B2"), b = a;
    b.id = b.name = "b";
    b.pins.clear();
    b.sets = {"s"};
    r.tiers = {a, b};
    CHECK(find_conflicts(r).size() == 1);
}

TEST_CASE("two people's edits of one draft go together, and what clashes is told", "[baselines]") {
    const Revision base = sample_revision();
    Revision mine = base, theirs = base;
    mine.tiers[0].pins[Field::exposure] = Pin::constant({2, ""});
    mine.tiers.push_back(exposure_tier("mine", Scope::model, "T7"));
    mine.sets[0].pins[Field::tint] = Pin::constant({9, ""});
    theirs.tiers[0].pins[Field::border] = Pin::constant({0, "keep"});
    theirs.tiers.push_back(exposure_tier("theirs", Scope::model, "Q5"));
    const MergedDrafts together = merge_drafts(base, mine, theirs);
    CHECK(together.refused.empty());
    CHECK(together.draft.tiers.size() == 4);
    CHECK(together.draft.tier("a")->pins.at(Field::exposure) == Pin::constant({2, ""}));
    CHECK(together.draft.tier("a")->pins.at(Field::border) == Pin::constant({0, "keep"}));
    CHECK(together.draft.set("fronds")->pins.at(Field::tint).knots[0].second.number == 9);

    theirs.tiers[0].pins[Field::exposure] = Pin::constant({3, ""});
    theirs.tiers[1].name = "renamed";
    mine.tiers.erase(mine.tiers.begin() + 1);
    const MergedDrafts clash = merge_drafts(base, mine, theirs);
    REQUIRE(clash.refused.size() == 2);
    for (const std::string& r : clash.refused) CHECK(is_one_sentence(r));
    CHECK(clash.draft.tier("a")->pins.at(Field::exposure) == Pin::constant({3, ""}));
    CHECK(clash.draft.tier("b"));
    CHECK(clash.draft.tier("mine"));
}

TEST_CASE("a pin keeps the measurement that it was derived from, also as a constant", "[baselines]") {
    Revision r = sample_revision();
    Pin constant = Pin::constant({12, ""});
    constant.measured = MeasurementReference{"n1", 2};
    Pin ramp{{{100, {0, ""}}, {800, {20, ""}}}, MeasurementReference{"n@1", 3}};
    r.tiers[0].pins[Field::colour_noise] = constant;
    r.tiers[0].pins[Field::luminance_noise] = ramp;
    const std::string text = revision_to_json(r);
    const Revision back = revision_from_json(text, "test");
    CHECK(back.tiers[0].pins.at(Field::colour_noise) == constant);
    CHECK(back.tiers[0].pins.at(Field::luminance_noise) == ramp);
    CHECK(back.tiers[0].pins.at(Field::luminance_noise) != Pin{ramp.knots});
    // A program that does not know such pins must refuse the document and not drop the reference.
    CHECK(text.find("\"format_version\": 3") != std::string::npos);
    CHECK(revision_to_json(sample_revision()).find("\"format_version\": 2") != std::string::npos);

    for (const char* wrong : {"", "n1", "n1@", "@1", "n1@0", "n1@-1", "n1@1.5", "n1@two", "n1@99999999999"}) {
        INFO(wrong);
        CHECK(error_of([&] { measurement_reference(wrong); }) == "input");
        std::string damaged = text;
        damaged.replace(damaged.find("\"n1@2\""), 6, fmt::format("\"{}\"", wrong));
        CHECK(error_of([&] { revision_from_json(damaged, "test"); }) == "input");
    }
}
