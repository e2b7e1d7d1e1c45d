// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/frames/frame_scope.h"

#include <catch2/catch.hpp>

#include "cli/studio_by_hand.h"
#include "rollout/sheet.h"
#include "store/store.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

FrameRecord record(const std::string& path, const std::string& serial, int iso, const std::string& time,
                   const std::string& lens = "Marlock 35 mm f/2") {
    FrameRecord f;
    f.path = path;
    Metadata m = f.metadata;
    m.maker = "Brimholt";
    m.model = "B2";
    m.body_serial = serial;
    m.iso = iso;
    m.time = time;
    m.lens = lens;
    f.metadata = m;
    return f;
}

struct Shoot {
    std::vector<FrameRecord> frames{
        record("/shoots/East/a.dng", "1", 100, "2026:03:01 09:00:00"),
        record("/shoots/East/deep/b.dng", "1", 800, "2026:03:02 10:00:00"),
        record("/shoots/West/c.dng", "2", 800, "2026:03:03 11:00:00", "Marlock 60 mm f/2.8"),
        record("/shoots/West/d.dng", "3", 0, "")};
    Fleet fleet{bodies(), {}};

    static Register bodies() {
        Register out;
        out.bodies.resize(2);
        for (int i = 0; i < 2; ++i) {
            Body& b = out.bodies[static_cast<std::size_t>(i)];
            b.maker = "Brimholt";
            b.model = "B2";
            b.serial = std::to_string(i + 1);
            b.id = "Brimholt B2/" + b.serial;
        }
        out.bodies[0].name = "North 2";
        out.bodies[0].asset_tag = "A-17";
        return out;
    }
    std::string names(const FrameScope& scope) const {
        std::string out;
        for (const FrameRecord& f : frames_of(scope, frames, fleet, Progress())) out += f.path.stem().string();
        return out;
    }
    void refused(const FrameScope& scope) const {
        const std::string sentence = sentence_of([&] { names(scope); });
        INFO(sentence);
        CHECK(is_one_sentence(sentence));
    }
};

template <class Set>
FrameScope scope_by(const Set& set) {
    FrameScope out;
    set(out);
    return out;
}

}  // namespace

TEST_CASE("a scope takes frames by what is known of them", "[studio][scope]") {
    const Shoot shoot;
    CHECK(shoot.names({}) == "abcd");
    CHECK(shoot.names(scope_by([](auto& s) { s.folders = {"/shoots/East"}; })) == "ab");
    CHECK(shoot.names(scope_by([](auto& s) { s.folders = {"/shoots/East/"}, s.beneath = false; })) == "a");
    CHECK(shoot.names(scope_by([](auto& s) { s.jobs = {"west"}; })) == "cd");
    for (const char* name : {"North 2", "north 2", "A-17", "Brimholt B2/1", "1"})
        CHECK(shoot.names(scope_by([&](auto& s) { s.bodies = {name}; })) == "ab");
    CHECK(shoot.names(scope_by([](auto& s) { s.bodies = {"Brimholt B2"}; })) == "abcd");
    CHECK(shoot.names(scope_by([](auto& s) { s.bodies = {"North 2", "Brimholt B2/2"}; })) == "abc");
    CHECK(shoot.names(scope_by([](auto& s) { s.lenses = {"marlock 60 mm f/2.8"}; })) == "c");
    CHECK(shoot.names(scope_by([](auto& s) { s.iso_from = 800; })) == "bc");
    CHECK(shoot.names(scope_by([](auto& s) { s.iso_to = 800; })) == "abc");
    CHECK(shoot.names(scope_by([](auto& s) { s.day_from = "2026-03-02"; })) == "bc");
    CHECK(shoot.names(scope_by([](auto& s) { s.day_from = s.day_to = "2026-03-02"; })) == "b");
    CHECK(shoot.names(scope_by([](auto& s) { s.frames = {"/shoots/West/d.dng", "/shoots/East/a.dng"}; })) == "ad");
    // Several kinds narrow one another.
    CHECK(shoot.names(scope_by([](auto& s) { s.bodies = {"Brimholt B2"}, s.jobs = {"West"}, s.iso_from = 100; })) ==
          "c");
}

TEST_CASE("what no frame has is told, never taken for a small scope", "[studio][scope]") {
    const Shoot shoot;
    shoot.refused(scope_by([](auto& s) { s.folders = {"/shoots/Eats"}; }));
    shoot.refused(scope_by([](auto& s) { s.folders = {"/shoots"}, s.beneath = false; }));
    shoot.refused(scope_by([](auto& s) { s.jobs = {"Wets"}; }));
    shoot.refused(scope_by([](auto& s) { s.bodies = {"North 2", "North 3"}; }));
    shoot.refused(scope_by([](auto& s) { s.lenses = {"Marlock 61 mm"}; }));
    shoot.refused(scope_by([](auto& s) { s.frames = {"/shoots/West/e.dng"}; }));
    shoot.refused(scope_by([](auto& s) { s.iso_from = 6400; }));
    shoot.refused(scope_by([](auto& s) { s.iso_from = 800, s.iso_to = 100; }));
    for (const char* day : {"2026-02-30", "1.3.2026", "2026-3-1", "yesterday"})
        shoot.refused(scope_by([&](auto& s) { s.day_from = day; }));
    shoot.refused(scope_by([](auto& s) { s.day_from = "2026-03-02", s.day_to = "2026-03-01"; }));
    const std::string sentence = sentence_of([&] { shoot.names(scope_by([](auto& s) { s.bodies = {"Nort 2"}; })); });
    CHECK(sentence.find("North 2") != std::string::npos);
}

TEST_CASE("a scope is told in words and kept as a document", "[studio][scope]") {
    FrameScope scope;
    scope.folders = {"/shoots/East"};
    scope.beneath = false;
    scope.jobs = {"West"};
    scope.bodies = {"North 2", "South"};
    scope.lenses = {"Marlock 35 mm f/2"};
    scope.iso_from = 800;
    scope.day_from = "2026-03-01";
    scope.day_to = "2026-03-05";
    scope.states = {FrameState::untouched, FrameState::hand_set};
    scope.frames = {"/shoots/East/a.dng"};
    CHECK(scope_from_json(scope_to_json(scope), "it") == scope);
    CHECK(scope_from_json(scope_to_json({}), "it").all());
    CHECK(in_words(scope) ==
          "folder alone /shoots/East; job West; body North 2 or South; lens Marlock 35 mm f/2; ISO from 800; taken "
          "2026-03-01 to 2026-03-05; state untouched or hand-set; a.dng");
    CHECK(in_words({}).empty());
    for (const char* document : {"", "[]", "{\"folders\": 3}", "{\"bodys\": [\"x\"]}", "{\"states\": [\"bare\"]}",
                                 "{\"iso_from\": \"x\"}", "{"})
        CHECK(error_of([&] { scope_from_json(document, "The selection 'x'"); }) == "input");
}

TEST_CASE("the command line rolls out over a scope, keeps it by name, and takes a part back", "[cli][rollout][scope]") {
    const StudioByHand s;
    s.good("store index", "'" + s.path("frames").string() + "'");
    s.good("baseline pin", "--field sharpening_amount --value 30");
    s.good("baseline publish");
    edit_sheet(s.frame("SP0004"), [](Sheet& sheet) { sheet.hand[Field::exposure] = {1, ""}; });
    s.good("rollout rehearse", "--state untouched --keep-as 'Not yet'");
    s.refused("rollout rehearse", "--selection 'Not jet'");
    s.refused("rollout rehearse", "--state bare");
    s.refused("rollout rehearse", "--iso 8oo", 2);
    s.refused("rollout rehearse", "--folder-alone", 2);
    s.refused("rollout apply", "--all --hours 22-6");
    s.refused("rollout apply", "--all --wait", 2);
    const auto report = nlohmann::json::parse(s.good("rollout apply", "--selection 'not yet' --json"));
    CHECK(report["written"] == 3);
    const auto shown = nlohmann::json::parse(s.good("rollout show", "--json"));
    CHECK(shown["scope"] == "state untouched");
    CHECK(shown["fields"]["sharpening_amount"].size() == 1);
    CHECK(s.good("rollout show").find("state untouched") != std::string::npos);
    // A part back, and that taken back.
    const auto back = nlohmann::json::parse(
        s.good("rollout rollback", "--json --number 1 --frame '" + s.frame("SP0001").string() + "'"));
    CHECK(back["takes_back"] == 1);
    CHECK(back["written"] == 1);
    CHECK_FALSE(read_sidecar(s.frame("SP0001")));
    CHECK(read_sidecar(s.frame("SP0002")));
    s.good("rollout rollback", "--number 2");
    CHECK(read_sidecar(s.frame("SP0001")));
    s.good("rollout again", "--number 2");
    CHECK_FALSE(read_sidecar(s.frame("SP0001")));
    s.refused("rollout again", "--number 1");
    s.refused("rollout rollback", "--number 1 --author Iva", 2);
    s.good("rollout forget", "'NOT YET'");
    s.refused("rollout forget", "'Not yet'");
}

TEST_CASE("a rollout that keeps to hours stops outside them and is gone on with by a word", "[cli][rollout][scope]") {
    const StudioByHand s;
    s.good("store index", "'" + s.path("frames").string() + "'");
    s.good("baseline pin", "--field sharpening_amount --value 30");
    s.good("baseline publish");
    // A minute that is twelve hours away from now, by this station's clock.
    const std::time_t now = std::time(nullptr);
    std::tm local{};
    localtime_r(&now, &local);
    const int hour = (local.tm_hour + 12) % 24;
    const auto report = nlohmann::json::parse(
        s.good("rollout apply", fmt::format("--all --json --hours {:02}:00-{:02}:01", hour, hour)));
    CHECK(report["paused"] == true);
    CHECK(report["written"] == 0);
    CHECK_FALSE(read_sidecar(s.frame("SP0001")));
    CHECK(nlohmann::json::parse(s.good("rollout resume", "--json"))["written"] == 0);
    CHECK(nlohmann::json::parse(s.good("rollout resume", "--json --now"))["written"] == 4);
    // In hours that hold the present one nothing waits.
    s.good("rollout rollback");
    CHECK(nlohmann::json::parse(s.good(
              "rollout apply", fmt::format("--all --json --wait --hours {:02}:{:02}-{:02}:{:02}",
                                           (local.tm_hour + 23) % 24, 0, (local.tm_hour + 2) % 24, 0)))["written"] ==
          4);
}
