// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/store.h"

#include <sys/wait.h>
#include <unistd.h>

#include <QSqlDatabase>
#include <QSqlError>
#include <QSqlQuery>
#include <QVariant>
#include <catch2/catch.hpp>
#include <csignal>
#include <thread>

#include "base/files.h"
#include "store/sqlite/sqlite_engine.h"
#include "stored_things.h"
#include "support/store_place.h"

using namespace optrel;
using namespace optrel::test;

TEST_CASE("frames come back as they were put, and register their bodies and lenses", "[store]") {
    const StorePlace place(EACH_ENGINE);
    {
        Store store(place.address(), Access::begin);
        store.frames().put({record("a.dng", "1"), record("b.dng", "2"), record("c.dng", "")}, true);
    }
    Store store(place.address(), Access::begin);
    const auto frames = store.frames().all();
    REQUIRE(frames.size() == 3);
    CHECK(frames[0].metadata.iso == 800);
    CHECK(frames[0].metadata->pitch_um == 9.4);
    CHECK(frames[0].modified == 456);
    CHECK(store.frames().find("/frames/b.dng"));
    CHECK_FALSE(store.frames().find("/frames/z.dng"));
    CHECK(store.registry().bodies().size() == 2);
    CHECK(store.registry().lenses().size() == 1);
    FrameRecord again = record("a.dng", "1");
    Metadata other = again.metadata;
    other.iso = 100;
    again.metadata = other;
    store.frames().put({again});
    CHECK(store.frames().all().size() == 3);
    CHECK(store.frames().find("/frames/a.dng")->metadata.iso == 100);
}

TEST_CASE("names and tags survive new frames, and every edit has an author and a way back", "[store]") {
    const StorePlace place(EACH_ENGINE);
    Store store(place.address(), Access::begin);
    store.frames().put({record("a.dng", "1")}, true);
    const Body before = store.registry().bodies()[0];
    Body after = before;
    after.name = "Stand 1; DROP TABLE bodies; --'\"";
    after.room = "East";
    FleetEdit edit;
    edit.what = "name a body";
    edit.bodies.push_back({before, after});
    store.registry().edit(edit, "Iva");
    store.frames().put({record("b.dng", "1")}, true);
    CHECK(store.registry().bodies() == std::vector<Body>{after});
    CHECK(store.registry().models().size() == 1);
    const auto history = store.registry().history("body", before.id);
    REQUIRE(history.size() == 1);
    CHECK(history[0].author == "Iva");
    CHECK(history[0].what == "name a body");
    CHECK(history[0].after.find("East") != std::string::npos);
    store.registry().edit(edit.reversed(), "Iva");
    CHECK(store.registry().bodies() == std::vector<Body>{before});
    CHECK(store.registry().history().size() == 2);
}

TEST_CASE("new frames wait to be claimed unless they are to be registered", "[store]") {
    const StorePlace place(EACH_ENGINE);
    Store store(place.address(), Access::begin);
    FrameRecord r = record("a.dng", "1");
    Metadata m = r.metadata;
    m.other_serials = {"00a7", "77"};
    m.recorded_sharpness = 2;
    m.recorded_rendering = true;
    m.filter = "GBRG";
    r.metadata = m;
    store.frames().put({r});
    CHECK(store.registry().bodies().empty());
    const Metadata back = store.frames().all()[0].metadata;
    CHECK(back.other_serials == m.other_serials);
    CHECK(back.recorded_sharpness == 2);
    CHECK(back.recorded_contrast == -1);
    CHECK(back.recorded_rendering);
    CHECK(back.filter == "GBRG");
}

TEST_CASE("two stations: the later one is told, and nothing is lost", "[store]") {
    const StorePlace place(EACH_ENGINE);
    Store one(place.address(), Access::begin), two(place.address());
    one.frames().put({record("a.dng", "1")}, true);
    const Body body = two.registry().bodies()[0];
    const auto seen = two.stamps();
    Body first = body, second = body;
    first.name = "East stand";
    second.room = "West";
    FleetEdit a, b;
    a.bodies.push_back({body, first});
    b.bodies.push_back({body, second});
    one.registry().edit(a, "Iva");
    CHECK(two.stamps() != seen);
    CHECK(error_of([&] { two.registry().edit(b, "Jon"); }) == "input");
    CHECK(two.registry().bodies()[0] == first);

    // Edits of the draft go together where they can.
    const Revision base_one = one.baselines().draft(), base_two = two.baselines().draft();
    const auto with_pin = [](Revision r, const char* id, double value) {
        if (!r.tier(id)) {
            Tier t;
            t.id = t.name = id;
            r.tiers.push_back(t);
        }
        r.tier(id)->pins[Field::exposure] = Pin::constant({value, ""});
        return r;
    };
    CHECK(one.baselines().edit_draft(base_one, with_pin(base_one, "a", 1)).refused.empty());
    const MergedDrafts merged = two.baselines().edit_draft(base_two, with_pin(base_two, "b", 2));
    CHECK(merged.refused.empty());
    CHECK(merged.draft.tiers.size() == 2);
    CHECK(one.baselines().draft().tiers.size() == 2);
    const Revision one_now = one.baselines().draft(), two_now = two.baselines().draft();
    CHECK(one.baselines().edit_draft(one_now, with_pin(one_now, "a", 3)).refused.empty());
    const MergedDrafts clash = two.baselines().edit_draft(two_now, with_pin(two_now, "a", 4));
    REQUIRE(clash.refused.size() == 1);
    CHECK(is_one_sentence(clash.refused[0]));
    CHECK(two.baselines().draft().tier("a")->pins[Field::exposure].knots[0].second.number == 3);
    CHECK(error_of([&] { one.baselines().publish("Iva", "", &one_now); }) == "input");
}

TEST_CASE("a number stands in the register once", "[store]") {
    const StorePlace place(EACH_ENGINE);
    Store store(place.address(), Access::begin);
    store.frames().put({record("a.dng", "1"), record("b.dng", "2")}, true);
    Body two = store.registry().bodies()[1], wrong = two;
    wrong.serial = "1";
    FleetEdit edit;
    edit.bodies.push_back({two, wrong});
    CHECK(error_of([&] { store.registry().edit(edit, "Iva"); }) == "input");
    CHECK(store.registry().bodies()[1] == two);
    CHECK(store.registry().history().empty());
}

TEST_CASE("returning to an earlier revision makes a new one, and keeps an unpublished draft", "[store]") {
    const StorePlace place(EACH_ENGINE);
    Store store(place.address(), Access::begin);
    const auto publish = [&](double value) {
        Revision r;
        Tier t;
        t.id = t.name = "studio";
        t.pins[Field::exposure] = Pin::constant({value, ""});
        r.tiers = {t};
        put_draft(store, r);
        return store.baselines().publish("Iva", "note");
    };
    publish(1);
    publish(2);
    const Revision back = store.baselines().return_to(1, "Iva", "").revision;
    CHECK(back.number == 3);
    CHECK(difference(*store.baselines().revision(1), store.baselines().current()).empty());
    CHECK(difference(store.baselines().current(), store.baselines().draft()).empty());
    Revision edited = store.baselines().draft();
    edited.tiers[0].pins[Field::exposure] = Pin::constant({5, ""});
    put_draft(store, edited);
    store.baselines().return_to(2, "Iva", "");
    CHECK(store.baselines().draft().tiers[0].pins[Field::exposure].knots[0].second.number == 5);
    CHECK(error_of([&] { store.baselines().return_to(77, "Iva", ""); }) == "input");
}

TEST_CASE("what the register adds to a start is part of the draft and stays in a revision", "[store]") {
    const StorePlace place(EACH_ENGINE);
    Store store(place.address(), Access::begin);
    store.frames().put({record("a.dng", "1")}, true);
    ModelEntry model = store.registry().models()[0], adding = model;
    adding.recorded_adds = R"({"luminance_noise":{"ramp":[{"iso":100,"value":"0"},{"iso":6400,"value":"40"}]}})";
    FleetEdit edit;
    edit.models.push_back({model, adding});
    store.registry().edit(edit, "Iva");
    CHECK(store.baselines().draft().recorded_adds.at(model.id).count(Field::luminance_noise));
    store.baselines().publish("Iva", "");
    store.registry().edit(edit.reversed(), "Iva");
    CHECK(store.baselines().draft().recorded_adds.empty());
    CHECK(store.baselines().current().recorded_adds.size() == 1);
    adding.recorded_adds = "{\"glow\":\"1\"}";
    FleetEdit bad;
    bad.models.push_back({model, adding});
    CHECK(error_of([&] { store.registry().edit(bad, "Iva"); }) == "input");
}

TEST_CASE("published profiles get the next version and never change", "[store]") {
    const StorePlace place(EACH_ENGINE);
    Store store(place.address(), Access::begin);
    CHECK(store.profiles().publish(profile("a")).version == 1);
    const Profile second = store.profiles().publish(profile("b"));
    CHECK(second.version == 2);
    CHECK(second.id == "a");
    CHECK(store.profiles().publish(profile("c", "LF2")).version == 1);
    CHECK(store.profiles().current().size() == 2);
    CHECK(store.profiles().all_versions().size() == 3);
    for (const Profile& p : store.profiles().current())
        if (p.id == "a") CHECK(p.version == 2);
}

TEST_CASE("several calls on a store are one when they are joined", "[store]") {
    const StorePlace place(EACH_ENGINE);
    Store store(place.address(), Access::begin);
    {
        Transaction all(store.engine());
        store.profiles().publish(profile("a"));
        store.runs().put({0, "run", "checker:15x10:30", "/f", {}});
    }
    CHECK(store.profiles().current().empty());
    CHECK(store.runs().all().empty());
    {
        Transaction all(store.engine());
        store.profiles().publish(profile("a"));
        store.runs().put({0, "run", "checker:15x10:30", "/f", {}});
        all.commit();
    }
    CHECK(store.profiles().current().size() == 1);
    CHECK(store.runs().all().size() == 1);
    // When one of them is given up, nothing of the others is kept, and it is told.
    Transaction all(store.engine());
    store.profiles().publish(profile("c", "LF2"));
    try {
        store.baselines().change_draft([](Revision&) { throw input_error("No."); });
    } catch (const Error&) {
    }
    CHECK(error_of([&] { all.commit(); }) == "store");
}

TEST_CASE("a draft is kept, published, and edited on", "[store]") {
    const StorePlace place(EACH_ENGINE);
    {
        Store store(place.address(), Access::begin);
        CHECK(store.baselines().current().number == 0);
        put_draft(store, draft_with(0.5));
    }
    Store store(place.address(), Access::begin);
    CHECK(store.baselines().draft().tiers[0].pins.at(Field::exposure).knots[0].second.number == 0.5);
    const Revision one = store.baselines().publish("Iva", "first");
    CHECK(one.number == 1);
    CHECK(one.author == "Iva");
    CHECK_FALSE(one.time.empty());
    put_draft(store, draft_with(1));
    CHECK(store.baselines().current().tiers[0].pins.at(Field::exposure).knots[0].second.number == 0.5);
    CHECK(store.baselines().publish("Iva", "second").number == 2);
    CHECK(store.baselines().revisions().size() == 2);
    CHECK(store.baselines().revisions()[0].number == 2);
}

TEST_CASE("a draft with a conflict is not published", "[store]") {
    const StorePlace place(EACH_ENGINE);
    Store store(place.address(), Access::begin);
    Revision r = draft_with(1);
    r.tiers.push_back(r.tiers[0]);
    r.tiers[1].id = r.tiers[1].name = "again";
    put_draft(store, r);
    const std::string sentence = sentence_of([&] { store.baselines().publish("x", ""); });
    CHECK(is_one_sentence(sentence));
    CHECK(sentence.find("again") != std::string::npos);
    CHECK(store.baselines().current().number == 0);
    CHECK(store.baselines().draft().tiers.size() == 2);
}

TEST_CASE("runs keep their frames", "[store]") {
    const StorePlace place(EACH_ENGINE);
    Store store(place.address(), Access::begin);
    RunRecord run;
    run.name = "one";
    run.chart = "checker:15x10:30";
    RunFrame f;
    f.path = "/a/CH1.dng";
    f.problem = "Nothing there.";
    run.frames = {f, f};
    run.id = store.runs().put(run);
    run.frames[1].dropped = true;
    CHECK(store.runs().put(run) == run.id);
    REQUIRE(store.runs().all().size() == 1);
    CHECK(store.runs().all()[0].frames.size() == 2);
    CHECK(store.runs().all()[0].frames[1].dropped);
    CHECK(store.runs().all()[0].frames[0].problem == "Nothing there.");
    store.runs().remove(run.id);
    CHECK(store.runs().all().empty());
}

TEST_CASE("a window and a queue that work on one run do not overwrite each other", "[store]") {
    const StorePlace place(EACH_ENGINE);
    Store window(place.address(), Access::begin), queue(place.address());
    RunRecord run;
    run.name = "one";
    run.chart = "checker:15x10:30";
    for (const char* name : {"/a/CH1.dng", "/a/CH2.dng", "/a/CH3.dng"}) {
        RunFrame f;
        f.path = name;
        run.frames.push_back(f);
    }
    run.id = window.runs().put(run);
    RunFrame measured = queue.runs().frame(run.id, 1);
    measured.problem = "Nothing there.";
    // The window drops that frame, and takes the first one out, while it is being measured.
    run.frames[1].dropped = true;
    run.frames.erase(run.frames.begin());
    window.runs().put(run);
    queue.runs().put_measurement(run.id, measured);
    RunFrame now = window.runs().frame(run.id, 0);
    CHECK(now.path == "/a/CH2.dng");
    CHECK(now.problem == "Nothing there.");
    CHECK(now.dropped);
    // The window, which has not heard of it, keeps the run once more.
    run.frames[0].dropped = false;
    window.runs().put(run);
    now = window.runs().frame(run.id, 0);
    CHECK(now.problem == "Nothing there.");
    CHECK_FALSE(now.dropped);
    // A second measurement changes nothing, and one of a frame that is gone neither.
    measured.problem = "Something else.";
    queue.runs().put_measurement(run.id, measured);
    measured.path = "/a/CH1.dng";
    queue.runs().put_measurement(run.id, measured);
    CHECK(window.runs().frame(run.id, 0).problem == "Nothing there.");
    CHECK(window.runs().all()[0].frames.size() == 2);
    // With another chart all is measured anew.
    run.chart = "checker:9x6:20";
    window.runs().put(run);
    CHECK_FALSE(window.runs().frame(run.id, 0).settled());
}

TEST_CASE("one frame of a run is kept by itself", "[store]") {
    const StorePlace place(EACH_ENGINE);
    Store store(place.address(), Access::begin);
    RunRecord run;
    run.name = "r";
    for (const char* name : {"a", "b"}) {
        RunFrame f;
        f.path = name;
        run.frames.push_back(f);
    }
    const int id = store.runs().put(run);
    RunFrame measured = run.frames[1];
    measured.hash = "h";
    measured.dropped_corners = {{1, 2}, {3, 4}};
    store.runs().put_frame(id, 1, measured);
    const RunRecord back = store.runs().all()[0];
    CHECK_FALSE(back.frames[0].measured());
    CHECK(back.frames[1].hash == "h");
    CHECK(back.frames[1].dropped_corners == measured.dropped_corners);
    // A run that is gone, or a place that it never had, is nothing to be saved to.
    store.runs().put_frame(id, 7, measured);
    store.runs().remove(id);
    store.runs().put_frame(id, 0, measured);
    CHECK(store.runs().all().empty());
}

TEST_CASE("an edit names the draft that it replaces: what another wrote meanwhile is merged", "[store]") {
    const StorePlace place(EACH_ENGINE);
    Store one(place.address(), Access::begin), two(place.address());
    put_draft(one, draft_with(0.5));
    const Revision base = one.baselines().draft();
    Revision theirs = two.baselines().draft(), mine = base;
    theirs.tiers[0].pins[Field::tint] = Pin::constant({4, ""});
    two.baselines().edit_draft(two.baselines().draft(), theirs);
    one.baselines().draft();  // having looked at the draft since does not make the base newer
    mine.tiers[0].pins[Field::contrast] = Pin::constant({9, ""});
    const MergedDrafts merged = one.baselines().edit_draft(base, mine);
    CHECK(merged.refused.empty());
    CHECK(merged.draft.tiers[0].pins.count(Field::tint) == 1);
    CHECK(merged.draft.tiers[0].pins.count(Field::contrast) == 1);
    CHECK(two.baselines().draft().tiers[0].pins.size() == 3);
}

TEST_CASE("two stations add frames to one run of a body, and none is lost", "[store][server]") {
    const StorePlace place(EACH_ENGINE);
    Store one(place.address(), Access::begin), two(place.address());
    BodyRun run{0, "noise", "N", "/f", {{"/f/a.dng", false}}, ""};
    run.id = one.body_runs().put(run);
    BodyRun here = one.body_runs().all().at(0), there = two.body_runs().all().at(0);
    here.frames.push_back({"/f/b.dng", false});
    there.frames.push_back({"/f/c.dng", false});
    there.frames[0].dropped = true;
    one.body_runs().put(here);
    two.body_runs().put(there);
    const BodyRun now = one.body_runs().all().at(0);
    CHECK(now.frames == std::vector<BodyRunFrame>{{"/f/a.dng", true}, {"/f/c.dng", false}, {"/f/b.dng", false}});
    CHECK(now.used() == std::vector<fs::path>{"/f/c.dng", "/f/b.dng"});
}
