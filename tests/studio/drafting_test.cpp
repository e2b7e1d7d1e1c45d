// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/baselines/drafting.h"

#include <catch2/catch.hpp>

#include "studio/baselines/tiers.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

Tier studio_tier() {
    Tier t;
    t.name = describe_conditions(t);
    return t;
}

Revision with_tier_and_set() {
    Revision draft;
    tier_with(draft, studio_tier());
    pin_in_set(draft, "Fronds", Field::exposure, Pin::constant({0.3, ""}));
    return draft;
}

}  // namespace

TEST_CASE("a pin is put in and taken out, and what is not there cannot be taken out", "[studio]") {
    Revision draft = with_tier_and_set();
    const std::string id = draft.tiers[0].id;
    pin_in_tier(draft, id, Field::sharpening_amount, Pin::constant({40, ""}));
    CHECK(draft.tier(id)->pins.size() == 1);
    pin_in_tier(draft, id, Field::sharpening_amount, std::nullopt);
    CHECK(draft.tier(id)->pins.empty());
    CHECK(error_of([&] { pin_in_tier(draft, id, Field::exposure, std::nullopt); }) == "input");
    CHECK(error_of([&] { pin_in_tier(draft, "t0", Field::exposure, std::nullopt); }) == "input");
    CHECK(error_of([&] { pin_in_set(draft, "Fronds", Field::contrast, std::nullopt); }) == "input");
    drop_empty_tier(draft, id);
    CHECK(draft.tiers.empty());
}

TEST_CASE("what is typed is a pin, or takes one out", "[studio]") {
    Revision draft = with_tier_and_set();
    CHECK_FALSE(typed_pin(Field::exposure, "  ", {}, draft));
    CHECK_FALSE(typed_pin(Field::exposure, "inherits", {}, draft));
    CHECK(typed_pin(Field::exposure, " 0.5 ", {}, draft)->knots.front().second.number == 0.5);
    Profile p;
    p.id = "p1";
    p.name = p.lens = "Lumenfold 35mm f/2.8";
    CHECK(typed_pin(Field::lens_profile, "lumenfold 35mm f/2.8", {{p}, {}}, draft)->knots.front().second.text == "p1");
    CHECK(error_of([&] { typed_pin(Field::lens_profile, "Lumenfold 85mm", {{p}, {}}, draft); }) == "input");
}

TEST_CASE("sets are used by the names that they have", "[studio]") {
    Revision draft = with_tier_and_set();
    const std::string id = draft.tiers[0].id;
    use_set(draft, id, "fronds", true);
    use_set(draft, id, "Fronds", true);
    CHECK(draft.tier(id)->sets == std::vector<std::string>{"Fronds"});
    CHECK(error_of([&] { delete_set(draft, "Fronds"); }) == "input");
    use_set(draft, id, "Fronds", false);
    CHECK(error_of([&] { use_set(draft, id, "Fronds", false); }) == "input");
    CHECK(sentence_of([&] { use_sets(draft, id, "Frond"); }).find("Fronds") != std::string::npos);
    use_sets(draft, id, " fronds , ");
    CHECK(draft.tier(id)->sets == std::vector<std::string>{"Fronds"});
    use_sets(draft, id, "none");
    CHECK(draft.tier(id)->sets.empty());
    delete_set(draft, "fronds");
    CHECK(draft.sets.empty());
}

TEST_CASE("a set builds on others but not on itself, and keeps its users under a new name", "[studio]") {
    Revision draft = with_tier_and_set();
    const std::string other = add_set(draft);
    CHECK(add_set(draft) == other + " 2");
    build_set_on(draft, other, "Fronds");
    CHECK(error_of([&] { build_set_on(draft, "Fronds", other); }) == "input");
    draft.set("Fronds")->sets.clear();
    CHECK(error_of([&] { rename_set_to(draft, "Fronds", other); }) == "input");
    rename_set_to(draft, "Fronds", "Dry fronds");
    CHECK(draft.set(other)->sets == std::vector<std::string>{"Dry fronds"});
    build_set_on(draft, other, "nothing");
    CHECK(draft.set(other)->sets.empty());
}

TEST_CASE("what comes in replaces others only when it is asked to, and says what gave way", "[studio]") {
    Revision draft = with_tier_and_set();
    const std::vector<PinSet> same = draft.sets;
    CHECK(take_in_sets(draft, same, TakeIn::refuse_others).empty());
    const std::vector<PinSet> another{{"Fronds", "", {}, {{Field::exposure, Pin::constant({1, ""})}}}};
    CHECK(error_of([&] { take_in_sets(draft, another, TakeIn::refuse_others); }) == "input");
    CHECK(take_in_sets(draft, another, TakeIn::replace) == std::vector<std::string>{"Fronds"});
    const Revision current;
    CHECK(error_of([&] { take_in_draft(draft, current, current, TakeIn::refuse_others); }) == "input");
    CHECK(take_in_draft(draft, current, current, TakeIn::replace) > 0);
    CHECK(take_in_draft(draft, current, current, TakeIn::refuse_others) == 0);
}

TEST_CASE("a tier is added once, renamed, taken out and brought back", "[studio]") {
    Revision draft;
    Tier tier = studio_tier();
    tier.id = tier_id_for(draft, tier);
    add_tier(draft, tier);
    CHECK(error_of([&] { add_tier(draft, tier); }) == "input");
    CHECK(error_of([&] { rename_tier(draft, tier.id, " "); }) == "input");
    rename_tier(draft, tier.id, " House ");
    CHECK(draft.tiers[0].name == "House");
    delete_tier(draft, tier.id);
    CHECK(error_of([&] { delete_tier(draft, tier.id); }) == "input");
    bring_back_tier(draft, tier);
    CHECK(error_of([&] { bring_back_tier(draft, tier); }) == "input");
}
