// SPDX-License-Identifier: GPL-3.0-or-later
// Frames that several stations see, each under its own path.
#include "store/roots.h"

#include <catch2/catch.hpp>
#include <cstdlib>

#include "rollout/rehearse.h"
#include "store/engine.h"
#include "stored_things.h"
#include "support/at_station.h"
#include "support/store_place.h"

using namespace optrel;
using namespace optrel::test;

namespace {

FrameRecord frame_at(const fs::path& path) {
    FrameRecord f = record("a.dng", "1");
    f.path = path;
    return f;
}

}  // namespace

TEST_CASE("paths within a root are kept by its name", "[store][roots]") {
    const RootMap map({{"shoots", "north", "/mnt/shoots"}, {"inner", "north", "/mnt/shoots/inner"}});
    CHECK(map.kept("/mnt/shoots/2026/a.dng") == "shoots:/2026/a.dng");
    CHECK(map.kept("/mnt/shoots/inner/a.dng") == "inner:/a.dng");
    CHECK(map.kept("/mnt/shootsx/a.dng") == "/mnt/shootsx/a.dng");
    CHECK(map.kept("/elsewhere/a.dng") == "/elsewhere/a.dng");
    CHECK(map.kept("") == "");
    for (const char* path : {"/mnt/shoots/2026/a.dng", "/mnt/shoots/inner/a.dng", "/elsewhere/a.dng", "/mnt/shoots"})
        CHECK(map.here(map.kept(path)) == fs::path(path));
    CHECK(map.here("other:/a.dng") == fs::path("other:/a.dng"));
    CHECK(RootMap::missing("other:/a.dng") == "other");
    CHECK(RootMap::missing("/mnt/a:/b.dng").empty());
}

TEST_CASE("each station sees frames of a root under its own path", "[store][roots][server]") {
    const StorePlace place(EACH_ENGINE);
    const TemporaryFolder disk;
    for (const char* name : {"north", "south"}) fs::create_directories(disk / name / "job");
    {
        const AtStation north("north");
        Store store(place.address(), Access::begin);
        store.frames().put({frame_at(disk / "north/job/a.dng"), frame_at("/only/here/b.dng")});
        RunFrame f;
        f.path = disk / "north/job/c.dng";
        // Before there were roots, and after.
        store.roots().put({"shoots", "north", disk / "north"});
        store.runs().put({0, "run", "checker:15x10:30", disk / "north/job", {f}});
        store.body_runs().put({0, "noise", "N", disk / "north/job", {{disk / "north/job/c.dng", true}}, "{}"});
        // A row that cannot be read keeps nobody from placing a root.
        store.engine().run("INSERT INTO body_runs (kind, name, document, result) VALUES ('noise', 'x', '{', '')");
        store.frames().put({frame_at(disk / "north/job/d.dng")});
        store.roots().put({"shoots", "south", disk / "south"});
        CHECK(store.frames().find(disk / "north/job/a.dng"));
        CHECK(store.frames().count() == 3);
    }
    {
        const AtStation south("south");
        Store store(place.address());
        const auto frames = store.frames().all();
        REQUIRE(frames.size() == 3);
        CHECK(store.frames().find(disk / "south/job/a.dng"));
        CHECK(store.frames().find(disk / "south/job/d.dng"));
        CHECK(store.frames().find("/only/here/b.dng"));
        CHECK(store.runs().all().at(0).frames.at(0).path == disk / "south/job/c.dng");
        REQUIRE(store.body_runs().all().size() == 1);
        CHECK(store.body_runs().all().at(0).folder == disk / "south/job");
        CHECK(store.body_runs().all().at(0).frames == std::vector<BodyRunFrame>{{disk / "south/job/c.dng", true}});
        CHECK(store.runs().unfinished("run", (disk / "south/job").string(), "checker:15x10:30"));
        store.frames().move(disk / "south/job/a.dng", disk / "south/job/e.dng");
    }
    const AtStation west("west");
    Store store(place.address());
    CHECK(store.frames().find("shoots:/job/e.dng"));  // known, though it lies nowhere here
    CHECK(RootMap::missing(store.frames().all().back().path) == "shoots");
}

TEST_CASE("what one station rolls out another one finds under its own path", "[store][roots][server]") {
    const StorePlace place("server");
    const TemporaryFolder disk;
    for (const char* name : {"north", "south"}) fs::create_directories(disk / name);
    RolloutRecord r;
    {
        const AtStation north("north");
        Store store(place.address(), Access::begin);
        store.roots().put({"shoots", "north", disk / "north"});
        store.roots().put({"shoots", "south", disk / "south"});
        RolloutEntry e;
        e.frame = disk / "north/a.dng";
        e.after = SharedText("new");
        store.rollouts().begin(r, {e});
        const auto held = store.rollouts().lease({disk / "north/a.dng"}, "A rollout of Iva");
        const AtStation south("south");
        Store other(place.address());
        CHECK(other.rollouts().entries(r).at(0).frame == disk / "south/a.dng");
        CHECK(error_of([&] { other.rollouts().lease({disk / "south/a.dng"}, "A rollout of Jon"); }) == "input");
        CHECK(other.rollouts().lease({disk / "south/b.dng"}, "A rollout of Jon"));
    }
}

TEST_CASE("a root has a name and a folder that is there", "[store][roots][server]") {
    const StorePlace place(EACH_ENGINE);
    const TemporaryFolder disk;
    const AtStation north("north");
    Store store(place.address(), Access::begin);
    const auto refused = [&](const RootPlace& p) { return error_of([&] { store.roots().put(p); }) == "input"; };
    CHECK(refused({"", "north", disk.path()}));
    CHECK(refused({"a/b", "north", disk.path()}));
    CHECK(refused({"a:b", "north", disk.path()}));
    CHECK(refused({"shoots", "north", disk / "nowhere"}));
    store.roots().put({"shoots", "north", disk.path()});
    CHECK(refused({"again", "north", disk.path()}));
    store.roots().put({"shoots", "south", "/srv/somewhere/else"});  // cannot be looked at from here
    CHECK(store.roots().all().size() == 2);
    CHECK(error_of([&] { store.roots().remove("shoot", "north"); }) == "input");
    store.roots().remove("shoots", "north");
    CHECK(store.roots().all().size() == 1);
}
