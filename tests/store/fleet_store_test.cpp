// SPDX-License-Identifier: GPL-3.0-or-later
// The register, its claims and its history in the store.
#include <catch2/catch.hpp>

#include "store/store.h"
#include "support/store_place.h"

using namespace optrel;
using namespace optrel::test;

namespace {

Body body(const char* serial) {
    Body b;
    b.maker = "Quenby";
    b.model = "Quenby Q5";
    b.serial = serial;
    b.width = 6000;
    b.height = 4000;
    b.pitch_um = 5.9;
    b.id = id_for(b);
    return b;
}

FleetEdit adding(const Body& b) {
    FleetEdit edit;
    edit.what = "add a body";
    edit.bodies.push_back({std::nullopt, b});
    return edit;
}

Revision something_pinned() {
    Revision r;
    Tier t;
    t.id = t.name = "studio";
    t.pins[Field::exposure] = Pin::constant({0.5, ""});
    r.tiers = {t};
    return r;
}

}  // namespace

TEST_CASE("an import becomes one edit: new, changed, and the models that it needs", "[store]") {
    const StorePlace place(EACH_ENGINE);
    Store store(place.address(), Access::begin);
    store.registry().edit(adding(body("1")), "Iva");
    RegisterImport import = register_from_csv(
        "maker,model,serial_number,room\nQuenby,Quenby Q5,1,East\nQuenby,Quenby Q5,2,\nTarnwick,Tarnwick T7,9,\n",
        "test", store.registry().entries());
    Claim c;
    c.id = "c1";
    c.target = "Quenby Q5/1";
    c.serial = "00a7";
    import.claims.push_back(c);
    const FleetEdit edit = store.registry().edit_for(import);
    CHECK(edit.bodies.size() == 3);
    CHECK(edit.models.size() == 2);
    store.registry().edit(edit, "Iva");
    CHECK(store.registry().bodies().size() == 3);
    CHECK(store.registry().entries().body("Quenby Q5/1")->room == "East");
    CHECK(store.registry().claims() == std::vector<Claim>{c});
    CHECK(store.registry().edit_for(import).empty());  // a second time there is nothing to do
    store.registry().edit(edit.reversed(), "Iva");
    CHECK(store.registry().bodies() == std::vector<Body>{body("1")});
    CHECK(store.registry().claims().empty());
    CHECK(store.registry().models().empty());
}

TEST_CASE("an edit is taken whole or not at all", "[store]") {
    const StorePlace place(EACH_ENGINE);
    Store store(place.address(), Access::begin);
    FleetEdit edit = adding(body("1"));
    Claim everything;
    everything.id = "c";
    everything.target = "Quenby Q5/1";
    edit.claims.push_back({std::nullopt, everything});
    CHECK(error_of([&] { store.registry().edit(edit, "Iva"); }) == "input");
    CHECK(store.registry().bodies().empty());
    CHECK(store.registry().history().empty());
    store.registry().edit(adding(body("1")), "Iva");
    CHECK(error_of([&] { store.registry().edit(adding(body("1")), "Iva"); }) == "input");  // it is there already
    FleetEdit gone;
    gone.bodies.push_back({body("2"), std::nullopt});
    CHECK(error_of([&] { store.registry().edit(gone, "Iva"); }) == "input");
    CHECK(store.registry().bodies().size() == 1);
}

TEST_CASE("the history tells who did what to which entry, newest first", "[store]") {
    const StorePlace place(EACH_ENGINE);
    Store store(place.address(), Access::begin);
    store.registry().edit(adding(body("1")), "Iva");
    store.registry().edit(adding(body("2")), "Jon");
    Body named = body("1");
    named.name = "Stand";
    FleetEdit edit;
    edit.what = "name a body";
    edit.bodies.push_back({body("1"), named});
    store.registry().edit(edit, "Jon");
    const auto all = store.registry().history();
    REQUIRE(all.size() == 3);
    CHECK(all[0].what == "name a body");
    CHECK(all[0].author == "Jon");
    CHECK(all[2].author == "Iva");
    CHECK(all[2].before.empty());
    CHECK(store.registry().history("body", "Quenby Q5/2").size() == 1);
    CHECK(store.registry().history("lens").empty());
    CHECK(store.registry().history("", "", 1).size() == 1);
    FleetEdit out;
    out.what = "take out";
    out.bodies.push_back({named, std::nullopt});
    store.registry().edit(out, "Iva");
    CHECK(store.registry().history("body", "Quenby Q5/1").front().after.empty());
}

TEST_CASE("the parts of a store count their writes, so that another station sees them", "[store]") {
    const StorePlace place(EACH_ENGINE);
    Store one(place.address(), Access::begin), two(place.address());
    const auto changed = [&](const char* part, const auto& work) {
        auto before = two.stamps();
        work();
        auto after = two.stamps();
        CHECK(after[part] == before[part] + 1);
    };
    changed("fleet", [&] { one.registry().edit(adding(body("1")), "Iva"); });
    changed("draft", [&] { put_draft(one, something_pinned()); });
    changed("baselines", [&] { one.baselines().publish("Iva", ""); });
    FrameRecord f;
    f.path = "/f/a.dng";
    changed("frames", [&] { one.frames().put({f}); });
    CHECK(two.frames().count() == 1);
    Profile p;
    p.id = "p";
    p.lens = p.name = "Lumenfold 35mm f/2.8";
    p.geometry = {100, 80, 10};
    ProfileNode n;
    n.focal_mm = 35;
    p.nodes = {n};
    changed("profiles", [&] { one.profiles().publish(p); });
}

TEST_CASE("a draft of two thousand tiers is edited tier by tier, and stays what it is after a crash", "[store]") {
    const StorePlace place(EACH_ENGINE);
    Revision draft;
    for (int i = 0; i < 2000; ++i) {
        Tier t;
        t.id = t.name = "t" + std::to_string(i);
        t.scope = Scope::body;
        t.target = "Q5/" + std::to_string(i);
        t.pins[Field::exposure] = Pin::constant({0.25, ""});
        draft.tiers.push_back(t);
    }
    draft.sets.push_back({"Fronds", "soft", {}, {{Field::tint, Pin::constant({3, ""})}}});
    {
        Store store(place.address(), Access::begin);
        put_draft(store, draft);
        const Revision base = store.baselines().draft();
        Revision next = base;
        next.tier("t7")->pins[Field::exposure] = Pin::constant({1, ""});
        std::erase_if(next.tiers, [](const Tier& t) { return t.id == "t8"; });
        next.set("Fronds")->pins.clear();
        store.baselines().edit_draft(base, next);
        // The program ends here without a word.
    }
    Store again(place.address());
    const Revision back = again.baselines().draft();
    CHECK(back.tiers.size() == 1999);
    CHECK(back.tier("t7")->pins.at(Field::exposure).knots[0].second.number == 1);
    CHECK_FALSE(back.tier("t8"));
    CHECK(back.set("Fronds")->pins.empty());
    CHECK(back.set("Fronds")->note == "soft");
    Revision round = back;
    round.set("Fronds")->sets = {"Fronds"};
    CHECK(error_of([&] { again.baselines().edit_draft(back, round); }) == "input");
    CHECK(again.baselines().draft().set("Fronds")->sets.empty());
}

TEST_CASE("watched folders are kept, and none within another", "[store][intake]") {
    const TemporaryFolder folder;
    const StorePlace place(EACH_ENGINE);
    for (const char* name : {"in", "in/card", "other"}) fs::create_directory(folder / name);
    Store store(place.address(), Access::begin);
    IntakeFolder f;
    f.folder = folder / "in/";
    f.set = "Evening";
    f.set_until = "2026-03-01T18:00:00Z";
    f.raw_only = f.unknown_waits = true;
    f.hours = day_hours_from("22:00-06:00");
    f.author = "Iva";
    f.time = "2026-03-01T08:00:00Z";
    store.intake().put(f);
    f.folder = folder / "in";
    CHECK(store.intake().folders() == std::vector{f});
    f.on = false;
    store.intake().put(f);
    CHECK(store.intake().folders() == std::vector{f});
    const auto refused = [&](const fs::path& path, const std::string& set = "Evening") {
        IntakeFolder other = f;
        other.folder = path;
        other.set = set;
        CHECK(error_of([&] { store.intake().put(other); }) == "input");
    };
    refused(folder / "in/card");
    refused(folder.path());
    refused(folder / "nowhere");
    refused(folder / "other", "");
    CHECK(error_of([&] { store.intake().remove(folder / "inn"); }) == "input");
    store.intake().remove(folder / "in");
    CHECK(store.intake().folders().empty());
}

TEST_CASE("what arrived is kept, newest first", "[store][intake]") {
    const StorePlace place(EACH_ENGINE);
    Store store(place.address(), Access::begin);
    store.intake().log({{"2026-03-01T08:00:00Z", "folder", "/in/a.dng", "baseline", "", "North 2", "Evening", 3, 7},
                        {"2026-03-01T08:00:01Z", "card", "/in/b\xff.dng", "failed", "It is broken.", "", "", 0, 0}});
    const auto newest = store.intake().newest(10);
    REQUIRE(newest.size() == 2);
    CHECK(newest[0].way == "card");
    CHECK(newest[1].frame == "/in/a.dng");
    CHECK(newest[1].rollout == 7);
    CHECK(store.intake().newest(1).size() == 1);
}
