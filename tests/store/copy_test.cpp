// SPDX-License-Identifier: GPL-3.0-or-later
// A whole store into another one, between engines and back.
#include "store/copy.h"
#include "optics/profile_kind.h"

#include <catch2/catch.hpp>
#include <set>

#include "base/times.h"
#include "rollout/rehearse.h"
#include "store/engine.h"
#include "store/tables.h"
#include "stored_things.h"
#include "support/store_place.h"

using namespace optrel;
using namespace optrel::test;

namespace {

RolloutEntry entry(const char* frame, std::optional<std::string> before, const std::string& after) {
    RolloutEntry e;
    e.frame = frame;
    if (before) e.before = SharedText(*before);
    e.after = SharedText(after);
    return e;
}

/// A rollout, and what takes it back.
void fill_rollouts(Store& store) {
    RolloutRecord r;
    r.revision = 1;
    r.author = "Iva";
    r.time = utc_now();
    r.frames = 2;
    store.rollouts().begin(r,
                           {entry("/frames/a.dng", std::nullopt, "new"), entry("/frames/b'\".dng", "old\xff", "new")});
    store.rollouts().set_status(r.number, RolloutStatus::done);
    r.takes_back = 1;
    r.frames = 1;
    store.rollouts().begin(r, {entry("/frames/a.dng", "new", "newer")});
}

/// Something in every table.
void fill(Store& store, const fs::path& watched) {
    store.frames().put({record("a.dng", "1"), record("b'\".dng", "2"), record("c.dng", "")}, true);
    store.frames().move("/frames/c.dng", "/elsewhere/c.dng");
    Body after = store.registry().bodies()[0];
    FleetEdit edit;
    edit.bodies.push_back({after, after});
    edit.bodies[0].after->room = "East";
    Claim claim;
    claim.id = "c1";
    claim.target = after.id;
    claim.serial = "00a7";
    edit.claims.push_back({std::nullopt, claim});
    store.registry().edit(edit, "Iva");
    store.profiles().publish(profile("a"));
    put_draft(store, draft_with(0.1));
    store.baselines().publish("Iva", "first");
    put_draft(store, draft_with(0.3));
    RunFrame f;
    f.path = "/a/CH1.dng";
    store.runs().put({0, "run", "checker:15x10:30", "/f", {f, f}});
    store.body_runs().put({0, "noise", "N", "/f", {{"/a/N1.dng", false}, {"/a/N2.dng", true}}, "{}"});
    Delivery delivery = store.deliveries().all().front();
    delivery.name = "Mine";
    store.deliveries().put(delivery);
    store.exports().add("north", {"/frames/a.dng"}, delivery, "/out");
    FilmRule rule;
    rule.pattern = "/films/*";
    rule.profile = "a";
    rule.focal_mm = 35.123456789012345;
    rule.area_width_mm = 23.1;
    store.film_rules().put(rule);
    IntakeFolder folder;
    folder.folder = watched;
    folder.raw_only = true;
    store.intake().put(folder);
    store.intake().log({{utc_now(), "folder", "/in/a.dng", "baseline", "", "North 2", "", 1, 1}});
    store.selections().put("mine", "{}");
    store.queue().add("trial", "Two things", {"{}", "{}"});
    store.proposals().propose(ProposalKind::of(lens_profile_kind()), "Lumenfold 35mm f/2.8", "{}", "Better");
    Remark remark;
    remark.kind = "tier";
    remark.subject = "studio";
    remark.words = "Look again";
    store.proposals().remark(remark);
    store.settings().put("approve.revision", "1");
    store.measurers().put({std::string(64, 'a'), "Shore Museum", true}, "Iva");
    store.found_bundles().found("/frames/job.optrel.zip", "h");
    store.roots().put({"shoots", "south", "/srv/shoots"});
    store.engine().run(
        upsert("colour_files", {"hash", "name", "camera", "contents", "origin", "author", "time", "document"}, "hash"),
        {"h", "n", "c", "d", "o", "a", "t", QByteArray("\0\x01\xff'\\", 5)});
    fill_rollouts(store);
}

}  // namespace

TEST_CASE("the tables are all that there are, with all their columns, on both engines", "[store][server]") {
    const StorePlace folder("folder"), server("server");
    Store in_folder(folder.address(), Access::begin), on_server(server.address(), Access::begin);
    std::set<std::string> known{"sqlite_sequence", "about",  "rollouts", "presence",     "machines",
                                "rollout_pieces",  "leases", "locks",    "commit_marks", "measurement_kinds"};
    for (const StoreTable& t : store_tables()) {
        known.insert(t.name);
        std::set<std::string> listed, there, far;
        for (const TableColumn& c : t.columns) listed.insert(c.name);
        QSqlQuery a = in_folder.engine().run("SELECT name FROM pragma_table_info('" + t.name + "')");
        while (a.next()) there.insert(text(a.value(0)));
        QSqlQuery b = on_server.engine().run(
            "SELECT column_name::text FROM information_schema.columns WHERE table_schema = 'optrel' AND table_name = ?",
            {text(t.name)});
        while (b.next()) far.insert(text(b.value(0)));
        INFO(t.name);
        CHECK(there == listed);
        CHECK(far == listed);
    }
    QSqlQuery a = in_folder.engine().run("SELECT name FROM sqlite_master WHERE type = 'table'");
    while (a.next()) CHECK(known.count(text(a.value(0))) == 1);
    QSqlQuery b = on_server.engine().run(
        "SELECT table_name::text FROM information_schema.tables WHERE table_schema = 'optrel' AND table_type = 'BASE "
        "TABLE'");
    while (b.next()) CHECK(known.count(text(b.value(0))) == 1);
}

TEST_CASE("a store is copied to a server and back, and is the same", "[store][server]") {
    const TemporaryFolder watched;
    const StorePlace folder("folder"), server("server"), again("folder");
    Store first(folder.address(), Access::begin), far(server.address(), Access::begin),
        back(again.address(), Access::begin);
    fill(first, watched.path());
    Progress progress;
    const StoreCopy there = copy_store(first, far, progress);
    CHECK(there.problems.empty());
    for (const CopiedTable& t : there.tables) {
        INFO(t.name);
        CHECK(t.rows > 0);
        CHECK(t.digest.size() == 64);
    }
    CHECK(there.tables.back().rows == 2);
    copy_store(far, back, progress);
    const auto one = store_digests(first, progress), three = store_digests(back, progress);
    for (std::size_t i = 0; i < one.size(); ++i) CHECK(one[i].digest == three[i].digest);
    // And it goes on there: numbers behind those that are there, edits upon the draft.
    CHECK(far.runs().put({0, "next", "", "", {}}) == 2);
    CHECK(far.baselines().publish("Jon", "").number == 2);
    FleetEdit edit;
    edit.bodies.push_back({far.registry().bodies()[0], std::nullopt});
    edit.claims.push_back({far.registry().claims()[0], std::nullopt});
    far.registry().edit(edit, "Jon");
    CHECK(far.registry().history().size() == 4);
    CHECK(far.history().audit({}, progress).problems.empty());
    CHECK(far.rollouts().entries(far.rollouts().record(1))[1].before == SharedText("old\xff"));
}

TEST_CASE("a history from before there were seals is copied as it is", "[store][server]") {
    const StorePlace folder("folder"), server("server");
    { Store first(folder.address(), Access::begin); }
    {
        Other other(folder.address());
        other.run(
            "INSERT INTO history (time, author, kind, subject, what, before, after) VALUES "
            "('2025-01-01T00:00:00Z', 'Iva', 'body', 'B2/1', 'add', '', '{}')");
    }
    Store first(folder.address()), far(server.address(), Access::begin);
    first.selections().put("mine", "{}");
    Progress progress;
    copy_store(first, far, progress);
    CHECK(far.history().entries("body").at(0).time == "2025-01-01T00:00:00Z");
    CHECK(far.history().entries("body").at(0).login.empty());
    far.selections().put("other", "{}");
    CHECK(far.history().audit({}, progress).problems.empty());
    CHECK(far.history().newest().id == 3);
}

TEST_CASE("a copy goes on where it was stopped, and replaces nothing of anybody else's", "[store][server]") {
    const TemporaryFolder watched;
    const StorePlace folder("folder"), server("server");
    Store first(folder.address(), Access::begin), far(server.address(), Access::begin);
    fill(first, watched.path());
    int steps = 0;
    Progress stopped([&](int, int, const std::string&) {
        if (++steps == 9) throw Cancelled();
    });
    CHECK_THROWS_AS(copy_store(first, far, stopped), Cancelled);
    CHECK(far.frames().count() == 3);
    CHECK(far.rollouts().list().empty());
    // Changed in between.
    FrameRecord f = record("a.dng", "1");
    Metadata m = f.metadata;
    m.iso = 100;
    f.metadata = m;
    first.frames().put({f});
    Progress progress;
    copy_store(first, far, progress);
    CHECK(far.frames().find("/frames/a.dng")->metadata.iso == 100);
    // Now it is a store of its own.
    CHECK(error_of([&] { copy_store(first, far, progress); }) == "input");
    CHECK(error_of([&] { copy_store(first, first, progress); }) == "input");
}
