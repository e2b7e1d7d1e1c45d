// SPDX-License-Identifier: GPL-3.0-or-later
// Paths in the store: names of any bytes, and what names paths holds at every station that has the root.
#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include "base/files.h"
#include "store/stored_things.h"
#include "studio/frames/frame_scope.h"
#include "studio/intake/take_in.h"
#include "support/at_station.h"
#include "support/store_place.h"

using namespace optrel;
using namespace optrel::test;

namespace {

const char* const odd = "caf\xe9 \xff.dng";

}  // namespace

TEST_CASE("names that are no UTF-8 survive wherever the store keeps paths", "[store][paths][server]") {
    const StorePlace place(EACH_ENGINE);
    const TemporaryFolder folder;
    const fs::path frame = folder / odd, moved = folder / "sub" / odd;
    fs::create_directories(folder / "sub");
    fs::copy_file(rig_frame("SP0001"), frame);
    Store store(place.address(), Access::begin);
    Progress progress;
    const IndexReport in = take_in(store, {folder.path()}, true, progress);
    CHECK(in.problems.empty());
    REQUIRE(in.fresh == 1);
    CHECK(store.frames().all()[0].path == frame);
    REQUIRE(store.frames().find(frame));
    CHECK(store.frames().move(frame, moved));
    CHECK(store.frames().moves().at(frame.string()) == moved);
    CHECK(store.frames().all()[0].path == moved);

    RunFrame measured;
    measured.path = moved;
    store.runs().put({0, "run", "checker:15x10:30", folder.path().string(), {measured}});
    CHECK(store.runs().all()[0].frames[0].path == moved);
    Claim claim;
    claim.id = "c";
    claim.target = store.registry().bodies()[0].id;
    claim.frames = {moved.string()};
    FleetEdit edit;
    edit.claims = {{std::nullopt, claim}};
    store.registry().edit(edit, "Iva");
    CHECK(store.registry().claims()[0].frames == claim.frames);
    FrameScope scope;
    scope.frames = {moved};
    store.selections().put("odd", scope_to_json(scope));
    CHECK(scope_from_json(store.selections().named("odd"), "it") == scope);
    store.intake().log({{utc_now(), "folder", moved, "baseline", "", "", "", 1, 1}});
    CHECK(store.intake().newest(1)[0].frame == moved);
    CHECK(store.history().audit(std::nullopt, progress).problems.empty());
}

TEST_CASE("claims, selections and rules for films hold where the root lies elsewhere", "[store][paths][server]") {
    const StorePlace place(EACH_ENGINE);
    const TemporaryFolder north, south;
    fs::create_directories(north / "2026");
    fs::create_directories(south / "2026");
    const auto claim_at = [](const fs::path& folder) {
        Claim c;
        c.id = "c";
        c.of = Claim::Of::lens;
        c.target = "LF1";
        c.folder = folder.string();
        c.frames = {(folder / "a.dng").string()};
        return c;
    };
    FilmRule rule;
    rule.profile = "p";
    rule.focal_mm = 35;
    rule.area_width_mm = 23;
    FrameScope scope;
    scope.folders = {north / "2026", north.path()};
    scope.frames = {north / "2026/a.dng"};
    {
        const AtStation here("north");
        Store store(place.address(), Access::begin);
        FleetEdit edit;
        edit.claims = {{std::nullopt, claim_at(north / "2026")}};
        store.registry().edit(edit, "Iva");
        store.selections().put("mine", scope_to_json(scope));
        rule.pattern = (north / "2026/*.mov").string();
        store.film_rules().put(rule);
        rule.pattern = "*_B2_*.mov";
        store.film_rules().put(rule);
        // What was kept under this station's paths belongs to the root as soon as there is one.
        store.roots().put({"shoots", "north", north.path()});
        CHECK(store.registry().claims() == std::vector<Claim>{claim_at(north / "2026")});
        CHECK(scope_from_json(store.selections().named("mine"), "it") == scope);
    }
    const AtStation here("south");
    Store store(place.address());
    store.roots().put({"shoots", "south", south.path()});
    CHECK(store.registry().claims() == std::vector<Claim>{claim_at(south / "2026")});
    FrameScope moved;
    moved.folders = {south / "2026", south.path()};
    moved.frames = {south / "2026/a.dng"};
    CHECK(scope_from_json(store.selections().named("mine"), "it") == moved);
    REQUIRE(store.film_rules().rule_of(south / "2026/F1.mov"));
    CHECK(store.film_rules().rule_of("/other/x_B2_1.mov"));
    CHECK_FALSE(store.film_rules().rule_of(north / "2026/F1.mov"));
    store.film_rules().remove((south / "2026/*.mov").string());
    CHECK_FALSE(store.film_rules().rule_of(south / "2026/F1.mov"));
    // A station without the root is told its name.
    const AtStation nowhere("east");
    CHECK(Store(place.address()).registry().claims()[0].folder == "shoots:/2026");
}
