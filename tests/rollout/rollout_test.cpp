// SPDX-License-Identifier: GPL-3.0-or-later
#include "rollout/rollout.h"

#include <sys/stat.h>
#include <sys/wait.h>
#include <unistd.h>

#include <atomic>
#include <catch2/catch.hpp>
#include <csignal>
#include <thread>

#include "base/fault_point.h"
#include "base/files.h"
#include "optics/profile.h"
#include "rollout/folder_rollout_store.h"
#include "rollout/frame_leases.h"
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

struct RolloutScene {
    TemporaryFolder folder;
    mutable FolderRolloutStore rollouts{folder / "rollouts"};
    std::vector<ScopedFrame> frames;

    explicit RolloutScene(int n) {
        fs::create_directory(root());
        for (int i = 0; i < n; ++i) {
            const fs::path path = folder / ("F" + std::to_string(1000 + i) + ".dng");
            write_bytes(path, "frame " + std::to_string(i));
            FrameFacts facts;
            facts.model = "B2";
            facts.body = i % 2 ? "B2/2" : "B2/1";
            facts.body_knowledge = BodyKnowledge::known;
            facts.iso = 100;
            frames.push_back({path, facts, facts.body, ""});
        }
    }
    fs::path root() const { return folder / "rollouts"; }
    Rehearsal rehearsed(double sharpening, int revision, bool renew = false) const {
        Progress progress;
        return rehearse(frames, revision, *resolver(sharpening), renew, progress);
    }
    RolloutReport out(double sharpening, int revision, bool renew = false) const {
        Progress progress;
        return roll_out(rehearsed(sharpening, revision, renew), revision, rollouts, "tester", progress);
    }
    RolloutReport back() const {
        Progress progress;
        return roll_back(rollouts, rollouts.list().front().number, progress);
    }
    std::string bytes(int i) const { return read_sidecar(frames[i].path).value_or("none"); }
};

}  // namespace

TEST_CASE("a rehearsal counts and writes nothing", "[rollout]") {
    RolloutScene scene(4);
    const Rehearsal r = scene.rehearsed(30, 1);
    CHECK(r.by_outcome().at(Outcome::changes) == 4);
    CHECK(r.writes() == 4);
    CHECK(r.by_body().at("B2/1") == std::pair(2, 2));
    CHECK(r.by_field().at(Field::exposure).front() == std::pair<std::string, int>("inherits → 0.50 EV", 2));
    CHECK(r.by_field().at(Field::sharpening_amount).front().second == 4);
    for (int i = 0; i < 4; ++i) CHECK(scene.bytes(i) == "none");
}

TEST_CASE("frames that carry a correction of their own are warned of before a profile corrects them again",
          "[rollout]") {
    RolloutScene scene(4);
    CHECK(scene.rehearsed(30, 1).warning().empty());
    scene.frames[1].carries = scene.frames[2].carries = "WarpRectilinear";
    const std::string warning = scene.rehearsed(30, 1).warning();
    CHECK(is_one_sentence(warning));
    CHECK(warning.find("2 of these frames") == 0);
    CHECK(warning.find("F1001.dng is the first") != std::string::npos);
    // Where the revision says that no profile is used, nothing is corrected twice.
    Revision r;
    r.tiers.emplace_back();
    r.tiers.back().id = "studio";
    r.tiers.back().pins[Field::lens_profile] = Pin::constant({0, "none"});
    Progress progress;
    CHECK(rehearse(scene.frames, 1, Resolver(r), false, progress).warning().empty());
    // What is not written is not warned of.
    scene.out(30, 1);
    CHECK(scene.rehearsed(30, 1).warning().empty());
}

TEST_CASE("a rollout writes what was rehearsed, and only sidecars", "[rollout]") {
    RolloutScene scene(4);
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
    RolloutScene scene(2);
    scene.out(30, 1);
    const Rehearsal r = scene.rehearsed(30, 2);
    CHECK(r.by_outcome().at(Outcome::same) == 2);
    CHECK(r.writes() == 2);
    scene.out(30, 2);
    CHECK(read_sheet(scene.frames[0].path).revision == 2);
}

TEST_CASE("hand-set and exempt frames are kept and listed", "[rollout]") {
    RolloutScene scene(4);
    scene.out(30, 1);
    Sheet hand = read_sheet(scene.frames[0].path);
    hand.hand[Field::exposure] = {1, ""};
    put_sheet(scene.frames[0].path, hand);
    Sheet bare;
    bare.exempt = true;
    put_sheet(scene.frames[1].path, bare);
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
    RolloutScene scene(5);
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
    RolloutScene scene(6);
    scene.out(30, 1);
    // One sidecar as another station would have written it: same content, other bytes.
    write_bytes(sidecar_path(scene.frames[2].path), scene.bytes(2) + "\n\n");
    std::vector<std::string> before;
    for (int i = 0; i < 6; ++i) before.push_back(scene.bytes(i));
    scene.out(80, 2);
    CHECK(scene.bytes(2) != before[2]);
    const RolloutReport report = scene.back();
    CHECK(report.written == 6);
    CHECK(report.kept().empty());
    for (int i = 0; i < 6; ++i) CHECK(scene.bytes(i) == before[i]);
    CHECK(scene.rollouts.list().front().status == RolloutStatus::rolled_back);
}

TEST_CASE("what was changed since a rollout is kept and listed", "[rollout]") {
    RolloutScene scene(3);
    scene.out(30, 1);
    Sheet hand = read_sheet(scene.frames[1].path);
    hand.hand[Field::tint] = {5, ""};
    put_sheet(scene.frames[1].path, hand);
    const std::string kept = scene.bytes(1);
    const RolloutReport report = scene.back();
    CHECK(report.written == 2);
    REQUIRE(report.kept().size() == 1);
    CHECK(is_one_sentence(report.kept()[0].sentence()));
    CHECK(scene.bytes(1) == kept);
    CHECK(scene.bytes(0) == "none");
}

TEST_CASE("a change between rehearsal and rollout stops it before anything is written", "[rollout]") {
    RolloutScene scene(3);
    const Rehearsal r = scene.rehearsed(30, 1);
    Progress progress;
    SECTION("a sidecar") {
        Sheet s;
        s.exempt = true;
        put_sheet(scene.frames[2].path, s);
        CHECK(error_of([&] { roll_out(r, 1, scene.rollouts, "t", progress); }) == "input");
    }
    SECTION("the revision") {
        CHECK(error_of([&] { roll_out(r, 2, scene.rollouts, "t", progress); }) == "input");
    }
    CHECK(scene.bytes(0) == "none");
    CHECK(scene.rollouts.list().empty());
}

namespace {

/// Lets a piece of work run in a program of its own, which ends without warning before its n-th step towards the disk.
/// False once the work has fewer steps than that.
bool ends_before_step(int n, const std::function<void()>& work) {
    const pid_t child = fork();
    REQUIRE(child >= 0);
    if (child == 0) {
        fault_point = [n, steps = 0](const char*) mutable {
            if (++steps == n) ::kill(::getpid(), SIGKILL);
            return 0;
        };
        work();
        ::_exit(0);
    }
    int status = 0;
    waitpid(child, &status, 0);
    return WIFSIGNALED(status);
}

int parts_in(const fs::path& folder) {
    int n = 0;
    for (const auto& entry : fs::recursive_directory_iterator(folder)) n += entry.path().extension() == ".part";
    return n;
}

}  // namespace

TEST_CASE("killed before any step to the disk, every sidecar is whole, and it goes on or back", "[rollout]") {
    RolloutScene scene(6);
    scene.out(10, 1);
    std::vector<std::string> before;
    for (int i = 0; i < 6; ++i) before.push_back(scene.bytes(i));
    Progress progress;
    int n = 1, begun = 0;
    for (; n < 200; ++n) {
        INFO("step " << n);
        const Rehearsal r = scene.rehearsed(90, 2);
        if (!ends_before_step(n, [&] { roll_out(r, 2, scene.rollouts, "t", progress); })) break;
        int old_ones = 0, new_ones = 0;
        for (int i = 0; i < 6; ++i) {
            old_ones += scene.bytes(i) == before[i];
            new_ones += scene.bytes(i) == r.frames[i].after;
        }
        CHECK(old_ones + new_ones == 6);
        // The number belongs to the one that stopped, whether it had begun or not: taking back the newest never takes
        // back the one before.
        const RolloutRecord newest = scene.rollouts.list().front();
        if (newest.number == 1) {
            CHECK(new_ones == 0);
            continue;
        }
        if (newest.status == RolloutStatus::preparing) {
            CHECK(new_ones == 0);
            CHECK(error_of([&] { resume(scene.rollouts, newest.number, progress); }) == "input");
        } else {
            ++begun;
            CHECK(resume(scene.rollouts, newest.number, progress).complete());
            for (int i = 0; i < 6; ++i) CHECK(scene.bytes(i) == r.frames[i].after);
        }
        roll_back(scene.rollouts, newest.number, progress);
        for (int i = 0; i < 6; ++i) CHECK(scene.bytes(i) == before[i]);
        CHECK(parts_in(scene.folder.path()) - parts_in(scene.root()) == 0);
        fs::remove_all(scene.rollouts.folder(newest.number));
    }
    CHECK(n > 25);
    CHECK(begun > 12);
    scene.back();
}

TEST_CASE("killed before any step of a roll back, it goes on", "[rollout]") {
    RolloutScene scene(5);
    Progress progress;
    for (int n = 1; n < 100; ++n) {
        scene.out(40, 1);
        const RolloutRecord newest = scene.rollouts.list().front();
        if (!ends_before_step(n, [&] { roll_back(scene.rollouts, newest.number, progress); })) break;
        CHECK(roll_back(scene.rollouts, scene.rollouts.list().front().number, progress).complete());
        for (int i = 0; i < 5; ++i) CHECK(scene.bytes(i) == "none");
    }
}

TEST_CASE("a sidecar that cannot be written is listed, the rest is, and the rollout goes on later", "[rollout]") {
    RolloutScene scene(5);
    const Rehearsal r = scene.rehearsed(30, 1);
    Progress progress;
    int sidecars = 0;
    fault_point = [&](const char* step) {
        return std::string(step) == "rename" && ++sidecars == 4 + 2 ? ENOSPC : 0;
    };  // after the four files of the record
    const RolloutReport report = roll_out(r, 1, scene.rollouts, "t", progress);
    fault_point = nullptr;
    CHECK(report.written == 4);
    REQUIRE(report.failed().size() == 1);
    CHECK(is_one_sentence(report.failed()[0].sentence()));
    CHECK(report.record.status == RolloutStatus::writing);
    CHECK(scene.rollouts.list().front().status == RolloutStatus::writing);
    const RolloutReport again = resume(scene.rollouts, report.record.number, progress);
    CHECK(again.complete());
    CHECK(again.written == 1);
    for (int i = 0; i < 5; ++i) CHECK(scene.bytes(i) == r.frames[i].after);
}

TEST_CASE("a full disk keeps nobody from rolling back", "[rollout]") {
    RolloutScene scene(5);
    scene.out(30, 1);
    // Nothing more can be written until something was removed.
    int removed = 0;
    fault_point = [&](const char* step) {
        removed += std::string(step) == "remove";
        return removed == 0 && std::string(step) != "remove" ? ENOSPC : 0;
    };
    const RolloutReport report = scene.back();
    fault_point = nullptr;
    CHECK(report.complete());
    CHECK(report.record.status == RolloutStatus::rolled_back);
    for (int i = 0; i < 5; ++i) CHECK(scene.bytes(i) == "none");
}

TEST_CASE("a rollout claims its frames: others go on beside it, and who is at work is named", "[rollout]") {
    RolloutScene scene(4);
    const std::vector<fs::path> first{scene.frames[0].path, scene.frames[1].path};
    auto lease = scene.rollouts.lease(first, "A rollout of N. Orth at north-2");
    const std::string said = sentence_of([&] { scene.out(30, 1); });
    CHECK(said.find("A rollout of N. Orth at north-2 is at work on 2 of these frames") == 0);
    CHECK(is_one_sentence(said));
    CHECK(scene.bytes(2) == "none");
    CHECK(scene.rollouts.list().empty());
    // Other frames are free.
    const Rehearsal all = scene.rehearsed(30, 1);
    Rehearsal rest = all;
    rest.frames.erase(rest.frames.begin(), rest.frames.begin() + 2);
    Progress progress;
    CHECK(roll_out(rest, 1, scene.rollouts, "tester", progress).written == 2);
    CHECK_FALSE(sentence_of([&] { scene.rollouts.lease({scene.frames[3].path, first[1]}, "x"); }).empty());
    lease.reset();
    CHECK(scene.out(30, 1).written == 2);
    // Nothing of the leases is left.
    CHECK(fs::is_empty(scene.root() / "claims"));
}

TEST_CASE("the claim of a program that died is free, and where none can be kept all frames are claimed", "[rollout]") {
    RolloutScene scene(2);
    fs::create_directories(scene.root() / "claims");
    write_bytes(scene.root() / "claims" / "north-2-77-0", "A rollout of N. Orth\n");
    CHECK(scene.out(30, 1).written == 2);
    CHECK(fs::is_empty(scene.root() / "claims"));
    fs::remove(scene.root() / "claims");
    write_bytes(scene.root() / "claims", "in the way");
    auto lease = scene.rollouts.lease({scene.frames[0].path}, "A rollout of N. Orth");
    CHECK(error_of([&] { scene.rollouts.lease({scene.frames[1].path}, "x"); }) == "input");
    lease.reset();
    CHECK(scene.out(40, 2).written == 2);
}

TEST_CASE("a share that goes in the middle leaves the rollout open, forwards and back", "[rollout]") {
    RolloutScene scene(2);
    // Two more frames on a share of their own.
    const fs::path share = scene.folder / "share";
    fs::create_directories(share);
    for (int i = 0; i < 2; ++i) {
        const fs::path to = share / scene.frames[i].path.filename();
        fs::rename(scene.frames[i].path, to);
        scene.frames[i].path = to;
    }
    const fs::path own = scene.folder / "own.dng";
    write_bytes(own, "frame");
    scene.frames.push_back({own, scene.frames[0].facts, "B2", ""});
    const Rehearsal r = scene.rehearsed(30, 1);
    Progress progress;
    // Unmounted: its folder is there and empty.
    fs::rename(share, scene.folder / "away");
    fs::create_directories(share);
    const RolloutReport out = roll_out(r, 1, scene.rollouts, "t", progress);
    CHECK(out.written == 1);
    CHECK(out.count(UnwrittenReason::folder_gone) == 2);
    CHECK(out.failed().size() == 2);
    CHECK(is_one_sentence(out.failed()[0].sentence()));
    CHECK(scene.rollouts.list()[0].status == RolloutStatus::writing);
    const auto bring_back = [&] {
        fs::remove(share);
        fs::rename(scene.folder / "away", share);
    };
    bring_back();
    CHECK(resume(scene.rollouts, 1, progress).complete());
    for (int i = 0; i < 3; ++i) CHECK(scene.bytes(i) != "none");
    // And back: what cannot be seen is not taken for restored.
    fs::rename(share, scene.folder / "away");
    const RolloutReport back = roll_back(scene.rollouts, 1, progress);
    CHECK(back.count(UnwrittenReason::folder_gone) == 2);
    CHECK(scene.rollouts.list()[0].status == RolloutStatus::rolling_back);
    fs::create_directories(share);
    CHECK_FALSE(resume(scene.rollouts, 1, progress).complete());
    bring_back();
    CHECK(resume(scene.rollouts, 1, progress).complete());
    for (int i = 0; i < 3; ++i) CHECK(scene.bytes(i) == "none");
    // Gone for good, as a person says.
    CHECK(roll_again(scene.rollouts, 1, progress).complete());
    fs::remove_all(share);
    CHECK_FALSE(roll_back(scene.rollouts, 1, progress).complete());
    const RolloutReport ended = roll_back(scene.rollouts, 1, progress, {{}, true});
    CHECK(ended.complete());
    CHECK(ended.kept().size() == 2);
    CHECK(scene.rollouts.list()[0].status == RolloutStatus::rolled_back);
}

TEST_CASE("a rollout that is about to begin cannot be given up by another station", "[rollout]") {
    RolloutScene scene(2);
    fs::create_directories(scene.rollouts.folder(1));
    const auto beginning = FileLock::try_own(scene.rollouts.folder(1) / "beginning");
    Progress progress;
    CHECK(error_of([&] { roll_back(scene.rollouts, 1, progress); }) == "input");
    CHECK(scene.rollouts.list()[0].status == RolloutStatus::preparing);
}

TEST_CASE("one rollout at a time works on a frame, and each gets a number of its own", "[rollout][threads]") {
    RolloutScene scene(4);
    const Rehearsal r = scene.rehearsed(30, 1);
    Progress progress;
    std::vector<std::string> told;
    // In the middle of the rollout, from the same thread: another rollout, a roll back and a resume are refused.
    fault_point = [&](const char*) {
        if (told.empty()) {
            told.emplace_back();
            const auto all = scene.rollouts.list();
            told[0] = sentence_of([&] {
                Progress other;
                roll_out(r, 1, scene.rollouts, "other", other);
            });
            if (!all.empty())
                told.push_back(sentence_of([&] {
                    Progress other;
                    roll_back(scene.rollouts, all.front().number, other);
                }));
        }
        return 0;
    };
    roll_out(r, 1, scene.rollouts, "t", progress);
    fault_point = nullptr;
    for (const std::string& sentence : told) CHECK(is_one_sentence(sentence));
    CHECK(scene.rollouts.list().size() == 1);
    // Six stations at once: those that come too early are told, none loses its record. (A lock is of an open file, so
    // threads contend for it as programs do.)
    std::vector<std::thread> stations;
    std::atomic<int> done{0};
    for (int i = 0; i < 6; ++i)
        stations.emplace_back([&, i] {
            Progress own;
            for (bool over = false; !over;) try {
                    roll_out(scene.rehearsed(50 + i, 2 + i), 2 + i, scene.rollouts, "station", own);
                    over = true;
                    ++done;
                } catch (const Error&) {
                    std::this_thread::yield();
                }
        });
    for (std::thread& t : stations) t.join();
    CHECK(done == 6);
    const auto all = scene.rollouts.list();
    REQUIRE(all.size() == 7);
    for (int i = 0; i < 7; ++i) {
        CHECK(all[i].number == 7 - i);
        CHECK(all[i].status == RolloutStatus::done);
    }
}

TEST_CASE("frames that are gone get nothing", "[rollout]") {
    RolloutScene scene(3);
    const Rehearsal r = scene.rehearsed(30, 1);
    fs::remove(scene.frames[1].path);
    Progress progress;
    const RolloutReport report = roll_out(r, 1, scene.rollouts, "t", progress);
    CHECK(report.written == 2);
    REQUIRE(report.kept().size() == 1);
    CHECK(is_one_sentence(report.kept()[0].sentence()));
    CHECK(scene.bytes(1) == "none");
}

TEST_CASE("what took the place of a frame and is no file gets no sidecar", "[rollout]") {
    RolloutScene scene(4);
    const Rehearsal r = scene.rehearsed(30, 1);
    for (int i = 0; i < 3; ++i) fs::remove(scene.frames[static_cast<std::size_t>(i)].path);
    REQUIRE(::mkfifo(scene.frames[0].path.string().c_str(), 0644) == 0);
    fs::create_directory(scene.frames[1].path);
    fs::create_symlink(scene.frames[2].path, scene.frames[2].path);  // to itself
    Progress progress;
    const RolloutReport report = roll_out(r, 1, scene.rollouts, "t", progress);
    CHECK(report.written == 1);
    REQUIRE(report.kept().size() == 3);
    for (const UnwrittenSidecar& u : report.kept()) CHECK(is_one_sentence(u.sentence()));
    for (int i = 0; i < 3; ++i) CHECK(scene.bytes(i) == "none");
}

TEST_CASE("a rollout says which frames it could not read", "[rollout]") {
    RolloutScene scene(3);
    write_bytes(sidecar_path(scene.frames[1].path), "damaged");
    Progress progress;
    const RolloutReport report = roll_out(scene.rehearsed(30, 1), 1, scene.rollouts, "t", progress);
    CHECK(report.written == 2);
    REQUIRE(report.count(UnwrittenReason::unreadable) == 1);
    CHECK(is_one_sentence(report.unwritten.back().sentence()));
    CHECK(scene.bytes(1) == "damaged");
}

TEST_CASE("a damaged record of a rollout is told", "[rollout]") {
    RolloutScene scene(2);
    scene.out(30, 1);
    const RolloutRecord record = scene.rollouts.list().front();
    write_bytes(scene.rollouts.folder(record.number) / "plan.json", "{");
    Progress progress;
    CHECK(error_of([&] { roll_back(scene.rollouts, record.number, progress); }) == "store");
    write_bytes(scene.rollouts.folder(record.number) / "record.json", "{");
    scene.out(50, 2);
    const auto all = scene.rollouts.list();
    REQUIRE(all.size() == 2);  // a damaged record hides no other
    CHECK(all[0].status == RolloutStatus::done);
    CHECK(all[1].status == RolloutStatus::damaged);
    CHECK(is_one_sentence(all[1].problem));
    CHECK(error_of([&] { roll_back(scene.rollouts, all[1].number, progress); }) == "store");
}

TEST_CASE("rehearsing can be cancelled", "[rollout]") {
    RolloutScene scene(3);
    Progress progress;
    progress.cancel();
    CHECK_THROWS_AS(rehearse(scene.frames, 1, *resolver(1), false, progress), Cancelled);
}

TEST_CASE("some frames of a rollout are taken back, and that is taken back in turn", "[rollout]") {
    RolloutScene scene(6);
    scene.out(20, 1);
    const RolloutReport whole = scene.out(30, 2);
    std::vector<std::string> before, after;
    for (const RolloutEntry& e : scene.rollouts.entries(whole.record)) {
        before.push_back(*e.before);
        after.push_back(*e.after);
    }
    Progress progress;
    RolloutOrder order("tester");
    order.station = "bench 2";
    order.scope = "body B2/1";
    const auto even = [&](const fs::path& f) { return std::stoi(f.stem().string().substr(1)) % 2 == 0; };
    const RolloutReport part = roll_back_part(scene.rollouts, whole.record.number, even, order, progress);
    CHECK(part.written == 3);
    CHECK(part.record.takes_back == whole.record.number);
    for (int i = 0; i < 6; ++i) CHECK(scene.bytes(i) == (i % 2 == 0 ? before : after)[static_cast<std::size_t>(i)]);
    const RolloutRecord kept = scene.rollouts.list().front();
    CHECK(kept.takes_back == whole.record.number);
    CHECK(kept.station == "bench 2");
    CHECK(kept.scope == "body B2/1");
    // The part is a rollout like any: it can be taken back, and rolled out again.
    CHECK(roll_back(scene.rollouts, kept.number, progress).written == 3);
    for (int i = 0; i < 6; ++i) CHECK(scene.bytes(i) == after[static_cast<std::size_t>(i)]);
    CHECK(roll_again(scene.rollouts, kept.number, progress).written == 3);
    CHECK(scene.bytes(0) == before[0]);
    // The whole after that: those that were taken back already stay.
    const RolloutReport rest = roll_back(scene.rollouts, whole.record.number, progress);
    CHECK(rest.written == 3);
    CHECK(rest.kept().empty());
    for (int i = 0; i < 6; ++i) CHECK(scene.bytes(i) == before[static_cast<std::size_t>(i)]);
    CHECK(error_of([&] {
              roll_back_part(
                  scene.rollouts, whole.record.number, [](const fs::path&) { return false; }, order, progress);
          }) == "input");
}

TEST_CASE("taking back frames that had no sidecar removes it, and going forward again brings it", "[rollout]") {
    RolloutScene scene(2);
    const RolloutReport first = scene.out(20, 1);
    const std::string written = scene.bytes(0);
    Progress progress;
    const auto all = [](const fs::path&) { return true; };
    const RolloutReport part = roll_back_part(scene.rollouts, first.record.number, all, "tester", progress);
    CHECK(scene.bytes(0) == "none");
    CHECK(roll_back(scene.rollouts, part.record.number, progress).complete());
    CHECK(scene.bytes(0) == written);
}

TEST_CASE("a roll back is taken back, except where somebody was faster", "[rollout]") {
    RolloutScene scene(3);
    const int number = scene.out(20, 1).record.number;
    const std::string written = scene.bytes(0);
    Progress progress;
    CHECK(error_of([&] { roll_again(scene.rollouts, number, progress); }) == "input");
    scene.back();
    edit_sheet(scene.frames[1].path, [](Sheet& s) { s.hand[Field::exposure] = {1, ""}; });
    const std::string by_hand = scene.bytes(1);
    const RolloutReport again = roll_again(scene.rollouts, number, progress);
    CHECK(again.written == 2);
    CHECK(again.kept().size() == 1);
    CHECK(scene.bytes(0) == written);
    CHECK(scene.bytes(1) == by_hand);
    CHECK(scene.rollouts.list().front().status == RolloutStatus::done);
}

TEST_CASE("a rollout that may not go on stops between sidecars, and goes on later", "[rollout]") {
    RolloutScene scene(5);
    Progress progress;
    RolloutOrder order("tester");
    order.hours = day_hours_from("22:00-06:00");
    int asked = 0;
    const RolloutReport first =
        roll_out(scene.rehearsed(20, 1), 1, scene.rollouts, order, progress, {[&] { return ++asked <= 2; }});
    CHECK(first.paused);
    CHECK_FALSE(first.complete());
    CHECK(first.written == 2);
    CHECK(scene.bytes(2) == "none");
    const RolloutRecord open = scene.rollouts.list().front();
    CHECK(open.status == RolloutStatus::writing);
    CHECK(to_string(open.hours) == "22:00-06:00");
    // Meanwhile somebody works on one of those that wait.
    edit_sheet(scene.frames[3].path, [](Sheet& s) { s.hand[Field::exposure] = {1, ""}; });
    const RolloutReport rest = resume(scene.rollouts, open.number, progress);
    CHECK(rest.complete());
    CHECK(rest.written == 2);
    CHECK(rest.kept().size() == 1);
    CHECK(read_sheet(scene.frames[3].path).hand.at(Field::exposure).number == 1);
}

TEST_CASE("hours of the day go over midnight and are written as they are read", "[rollout]") {
    const DayHours night = day_hours_from(" 22:00 - 6:30 ");
    CHECK(to_string(night) == "22:00-06:30");
    CHECK(night.holds(22 * 60));
    CHECK(night.holds(0));
    CHECK(night.holds(6 * 60 + 29));
    CHECK_FALSE(night.holds(6 * 60 + 30));
    CHECK_FALSE(night.holds(12 * 60));
    CHECK(day_hours_from("09:00-17:00").holds(9 * 60));
    CHECK_FALSE(day_hours_from("09:00-17:00").holds(17 * 60));
    CHECK(day_hours_from("").holds(700));
    CHECK(to_string(DayHours()).empty());
    for (const char* text : {"22-6", "24:00-06:00", "22:00", "22:60-06:00", "08:00-08:00", "a:b-c:d", "22:00-06:00x"})
        CHECK(error_of([&] { day_hours_from(text); }) == "input");
}

TEST_CASE("killed before any step of taking back a part, it goes on or back", "[rollout]") {
    const auto chosen = [](const fs::path& f) { return f.stem() != "F1001"; };
    for (int n = 1;; ++n) {
        RolloutScene scene(3);
        scene.out(20, 1);
        const int whole = scene.out(30, 2).record.number;
        Progress progress;
        const auto entries = scene.rollouts.entries(scene.rollouts.record(whole));
        const bool killed =
            ends_before_step(n, [&] { roll_back_part(scene.rollouts, whole, chosen, "tester", progress); });
        for (std::size_t i = 0; i < 3; ++i) {
            const std::string now = scene.bytes(static_cast<int>(i));
            CHECK((now == *entries[i].before || now == *entries[i].after));
        }
        CHECK(scene.bytes(1) == *entries[1].after);
        const RolloutRecord newest = scene.rollouts.list().front();
        if (newest.number != whole && newest.status == RolloutStatus::writing)
            CHECK(resume(scene.rollouts, newest.number, progress).complete());
        CHECK(roll_back(scene.rollouts, whole, progress).complete());
        for (std::size_t i = 0; i < 3; ++i) CHECK(scene.bytes(static_cast<int>(i)) == *entries[i].before);
        if (!killed) break;
    }
}

TEST_CASE("why a sidecar was not written is a reason that can be counted, with one sentence each", "[rollout]") {
    using Reason = UnwrittenReason;
    std::set<std::string> names, sentences;
    for (const Reason reason : {Reason::hand_set, Reason::exempt, Reason::changed_since, Reason::frame_gone,
                                Reason::no_file, Reason::folder_left_out, Reason::folder_gone, Reason::write_failed,
                                Reason::unreadable, Reason::other_station}) {
        const UnwrittenSidecar u{"/shoots/a\x1b[2J.dng", reason, "The disk is full, so /shoots/a.xmp was not written."};
        INFO(to_string(reason));
        CHECK(is_one_sentence(u.sentence()));
        CHECK(u.sentence().find('\x1b') == std::string::npos);
        CHECK_FALSE((u.kept() && u.failed()));
        names.insert(to_string(reason));
        if (reason != Reason::write_failed && reason != Reason::unreadable) sentences.insert(u.sentence());
    }
    CHECK(names.size() == 10);
    CHECK(sentences.size() == 8);
    RolloutReport report;
    report.unwritten = {{"a", Reason::changed_since}, {"b", Reason::folder_gone}, {"c", Reason::changed_since}};
    CHECK(report.count(Reason::changed_since) == 2);
    CHECK(report.kept().size() == 2);
    CHECK(report.failed().size() == 1);
    CHECK_FALSE(report.complete());
}
