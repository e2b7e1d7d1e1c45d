#include "rollout/rollout.h"

#include <sys/wait.h>
#include <unistd.h>

#include <catch2/catch.hpp>
#include <csignal>

#include "base/files.h"
#include "optics/profile.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

std::unique_ptr<Resolver> resolver(double sharpening) {
    Tier s;
    s.id = s.name = "studio";
    s.pins[Field::sharpening_amount] = Pin::constant({sharpening, ""});
    Tier b = s;
    b.id = b.name = "body";
    b.scope = Scope::body;
    b.target = "B2/1";
    b.pins = {{Field::exposure, Pin::constant({0.5, ""})}};
    Revision r;
    r.tiers = {s, b};
    return std::make_unique<Resolver>(std::move(r));
}

struct Scene {
    TemporaryFolder folder;
    std::vector<ScopedFrame> frames;

    explicit Scene(int n) {
        fs::create_directory(root());
        for (int i = 0; i < n; ++i) {
            const fs::path path = folder / ("F" + std::to_string(1000 + i) + ".dng");
            write_bytes(path, "frame " + std::to_string(i));
            FrameFacts facts;
            facts.model = "B2";
            facts.body = i % 2 ? "B2/2" : "B2/1";
            facts.body_knowledge = BodyKnowledge::known;
            facts.iso = 100;
            frames.push_back({path, facts, facts.body});
        }
    }
    fs::path root() const { return folder / "rollouts"; }
    Rehearsal rehearsed(double sharpening, int revision, bool renew = false) const {
        Progress progress;
        return rehearse(frames, revision, *resolver(sharpening), renew, progress);
    }
    RolloutReport out(double sharpening, int revision, bool renew = false) const {
        Progress progress;
        return roll_out(rehearsed(sharpening, revision, renew), revision, root(), "tester", progress);
    }
    RolloutReport back() const {
        Progress progress;
        return roll_back(list_rollouts(root()).front(), progress);
    }
    std::string bytes(int i) const { return read_sidecar(frames[i].path).value_or("none"); }
};

}  // namespace

TEST_CASE("a rehearsal counts and writes nothing", "[rollout]") {
    Scene scene(4);
    const Rehearsal r = scene.rehearsed(30, 1);
    CHECK(r.by_outcome().at(Outcome::changes) == 4);
    CHECK(r.writes() == 4);
    CHECK(r.by_body().at("B2/1") == std::pair(2, 2));
    CHECK(r.by_field().at(Field::exposure).front() == std::pair<std::string, int>("inherits → 0.50 EV", 2));
    CHECK(r.by_field().at(Field::sharpening_amount).front().second == 4);
    for (int i = 0; i < 4; ++i) CHECK(scene.bytes(i) == "none");
}

TEST_CASE("a rollout writes what was rehearsed, and only sidecars", "[rollout]") {
    Scene scene(4);
    const RolloutReport report = scene.out(30, 1);
    CHECK(report.written == 4);
    CHECK(report.record.status == RolloutStatus::done);
    CHECK(read_sheet(scene.frames[0].path).baseline.at(Field::exposure).number == 0.5);
    CHECK(read_sheet(scene.frames[1].path).baseline.count(Field::exposure) == 0);
    CHECK(read_sheet(scene.frames[0].path).revision == 1);
    for (int i = 0; i < 4; ++i) CHECK(read_file(scene.frames[i].path) == "frame " + std::to_string(i));
    CHECK(scene.rehearsed(30, 1).by_outcome().at(Outcome::same) == 4);
    CHECK(scene.rehearsed(30, 1).writes() == 0);
}

TEST_CASE("frames whose fields stay get only the new number", "[rollout]") {
    Scene scene(2);
    scene.out(30, 1);
    const Rehearsal r = scene.rehearsed(30, 2);
    CHECK(r.by_outcome().at(Outcome::same) == 2);
    CHECK(r.writes() == 2);
    scene.out(30, 2);
    CHECK(read_sheet(scene.frames[0].path).revision == 2);
}

TEST_CASE("hand-set and exempt frames are kept and listed", "[rollout]") {
    Scene scene(4);
    scene.out(30, 1);
    Sheet hand = read_sheet(scene.frames[0].path);
    hand.hand[Field::exposure] = {1, ""};
    write_sheet(scene.frames[0].path, hand);
    Sheet bare;
    bare.exempt = true;
    write_sheet(scene.frames[1].path, bare);
    const std::string kept_hand = scene.bytes(0), kept_bare = scene.bytes(1);
    const Rehearsal r = scene.rehearsed(60, 2);
    CHECK(r.by_outcome().at(Outcome::kept_hand_set) == 1);
    CHECK(r.by_outcome().at(Outcome::exempt) == 1);
    CHECK(r.by_outcome().at(Outcome::changes) == 2);
    scene.out(60, 2);
    CHECK(scene.bytes(0) == kept_hand);
    CHECK(scene.bytes(1) == kept_bare);
    scene.out(70, 3, true);  // on request the layer beneath is renewed
    CHECK(read_sheet(scene.frames[0].path).baseline.at(Field::sharpening_amount).number == 70);
    CHECK(read_sheet(scene.frames[0].path).hand.at(Field::exposure).number == 1);
    CHECK(read_sheet(scene.frames[0].path).state() == FrameState::hand_set);
    CHECK(scene.bytes(1) == kept_bare);
}

TEST_CASE("rendered frames, unknown bodies and unreadable sidecars are counted apart", "[rollout]") {
    Scene scene(5);
    scene.frames[0].facts.raw = false;
    scene.frames[1].facts.body_knowledge = BodyKnowledge::unknown;
    write_bytes(sidecar_path(scene.frames[2].path), "not ours");
    fs::remove(scene.frames[3].path);
    const Rehearsal r = scene.rehearsed(30, 1);
    CHECK(r.by_outcome().at(Outcome::other_kind) == 1);
    CHECK(r.by_outcome().at(Outcome::body_unknown) == 1);
    CHECK(r.by_outcome().at(Outcome::unreadable) == 2);
    CHECK(is_one_sentence(r.frames[2].reason));
    CHECK(is_one_sentence(r.frames[3].reason));
    scene.out(30, 1);
    CHECK(scene.bytes(2) == "not ours");
    CHECK(scene.bytes(0) == "none");
    CHECK(read_sheet(scene.frames[1].path).baseline.count(Field::exposure) == 0);  // no body tier reaches it
}

TEST_CASE("a roll back restores every sidecar byte for byte", "[rollout]") {
    Scene scene(6);
    scene.out(30, 1);
    // One sidecar as another station would have written it: same content, other bytes.
    write_bytes(sidecar_path(scene.frames[2].path), scene.bytes(2) + "\n\n");
    std::vector<std::string> before;
    for (int i = 0; i < 6; ++i) before.push_back(scene.bytes(i));
    scene.out(80, 2);
    CHECK(scene.bytes(2) != before[2]);
    const RolloutReport report = scene.back();
    CHECK(report.written == 6);
    CHECK(report.kept.empty());
    for (int i = 0; i < 6; ++i) CHECK(scene.bytes(i) == before[i]);
    CHECK(list_rollouts(scene.root()).front().status == RolloutStatus::rolled_back);
}

TEST_CASE("what was changed since a rollout is kept and listed", "[rollout]") {
    Scene scene(3);
    scene.out(30, 1);
    Sheet hand = read_sheet(scene.frames[1].path);
    hand.hand[Field::tint] = {5, ""};
    write_sheet(scene.frames[1].path, hand);
    const std::string kept = scene.bytes(1);
    const RolloutReport report = scene.back();
    CHECK(report.written == 2);
    REQUIRE(report.kept.size() == 1);
    CHECK(is_one_sentence(report.kept[0]));
    CHECK(scene.bytes(1) == kept);
    CHECK(scene.bytes(0) == "none");
}

TEST_CASE("a change between rehearsal and rollout stops it before anything is written", "[rollout]") {
    Scene scene(3);
    const Rehearsal r = scene.rehearsed(30, 1);
    Progress progress;
    SECTION("a sidecar") {
        Sheet s;
        s.exempt = true;
        write_sheet(scene.frames[2].path, s);
        CHECK(is_one_sentence(sentence_of([&] { roll_out(r, 1, scene.root(), "t", progress); })));
    }
    SECTION("the revision") { CHECK(is_one_sentence(sentence_of([&] { roll_out(r, 2, scene.root(), "t", progress); }))); }
    CHECK(scene.bytes(0) == "none");
    CHECK(list_rollouts(scene.root()).empty());
}

TEST_CASE("a rollout that is killed at any time leaves whole sidecars and can go on or back", "[rollout]") {
    for (int round = 0; round < 10; ++round) {
        Scene scene(60);
        scene.out(10, 1);
        std::vector<std::string> before;
        for (int i = 0; i < 60; ++i) before.push_back(scene.bytes(i));
        const Rehearsal r = scene.rehearsed(90, 2);
        const pid_t child = fork();
        REQUIRE(child >= 0);
        if (child == 0) {
            Progress progress;
            roll_out(r, 2, scene.root(), "t", progress);
            _exit(0);
        }
        usleep(1500 * round);
        kill(child, SIGKILL);
        waitpid(child, nullptr, 0);
        int old_ones = 0, new_ones = 0;
        for (int i = 0; i < 60; ++i) {
            old_ones += scene.bytes(i) == before[i];
            new_ones += scene.bytes(i) == r.frames[i].after;
        }
        CHECK(old_ones + new_ones == 60);
        const auto records = list_rollouts(scene.root());
        if (records.front().revision != 2) {
            CHECK(new_ones == 0);
            continue;
        }
        Progress progress;
        if (round % 2) {
            resume(records.front(), progress);
            for (int i = 0; i < 60; ++i) CHECK(scene.bytes(i) == r.frames[i].after);
        } else {
            roll_back(records.front(), progress);
            for (int i = 0; i < 60; ++i) CHECK(scene.bytes(i) == before[i]);
        }
    }
}

TEST_CASE("a rollout into a folder that refuses says so, and goes on later", "[rollout]") {
    if (geteuid() == 0) {
        // Root may write anywhere, so a folder stands where the sidecar should.
        Scene scene(2);
        fs::create_directory(sidecar_path(scene.frames[1].path));
        const Rehearsal r = scene.rehearsed(30, 1);
        CHECK(r.by_outcome().at(Outcome::unreadable) == 1);
        CHECK(r.writes() == 1);
        return;
    }
    Scene scene(2);
    const Rehearsal r = scene.rehearsed(30, 1);
    fs::permissions(scene.folder.path(), fs::perms::owner_read | fs::perms::owner_exec);
    Progress progress;
    CHECK(is_one_sentence(sentence_of([&] { roll_out(r, 1, scene.root(), "t", progress); })));
}

TEST_CASE("a damaged record of a rollout is told", "[rollout]") {
    Scene scene(2);
    scene.out(30, 1);
    const RolloutRecord record = list_rollouts(scene.root()).front();
    write_bytes(record.folder / "plan.json", "{");
    Progress progress;
    CHECK(is_one_sentence(sentence_of([&] { roll_back(record, progress); })));
    write_bytes(record.folder / "record.json", "{");
    CHECK(is_one_sentence(sentence_of([&] { list_rollouts(scene.root()); })));
}

TEST_CASE("rehearsing can be cancelled", "[rollout]") {
    Scene scene(3);
    Progress progress;
    progress.cancel();
    CHECK_THROWS_AS(rehearse(scene.frames, 1, *resolver(1), false, progress), Cancelled);
}
