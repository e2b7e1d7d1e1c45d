// SPDX-License-Identifier: GPL-3.0-or-later
// A camera that is followed: each new frame is copied once, whole, and gets its baseline.
#include "studio/intake/following.h"

#include <atomic>
#include <catch2/catch.hpp>
#include <thread>

#include "base/files.h"
#include "cli/studio_by_hand.h"
#include "rollout/sheet.h"
#include "studio/intake/watching.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

/// A studio with a baseline and a set, and a camera on a cable with one older frame on it.
struct StudioWithCamera : StudioByHand {
    StudioWithCamera() {
        good("baseline pin", "--field sharpening_amount --value 30");
        good("baseline sets pin", "--name Evening --field exposure --value 0.4");
        good("baseline publish");
        fs::create_directories(on_camera("").parent_path());
        fs::create_directories(path("job"));
        shoot("SP0001", "OLD1");
        order.camera = folder_as_camera(path("camera"));
        order.to = path("job");
        order.how.author = "T. Ester";
    }
    fs::path on_camera(const std::string& name) const { return path("camera") / "DCIM" / (name + ".dng"); }
    fs::path job(const std::string& name) const { return path("job") / (name + ".dng"); }
    void shoot(const char* frame, const std::string& name) const { fs::copy_file(rig_frame(frame), on_camera(name)); }
    Store store() const { return Store(path("s").string(), Access::write); }
    std::unique_ptr<Following> follow() {
        return std::make_unique<Following>(
            store().source(), order,
            Following::Told{[this](const ArrivalResult& t, const IntakeReport&) { taken.push_back(t); },
                            [this](const std::string& s) { problems.push_back(s); },
                            [this](const std::string& s) { news.push_back(s); }});
    }
    /// Until so many frames were taken in, in all.
    void until(Following& following, std::size_t frames) {
        for (int i = 0; i < 200 && taken.size() < frames; ++i) following.step(progress);
        for (auto& t : taken) UNSCOPED_INFO(t.frame << " " << to_string(t.what) << t.why);
        REQUIRE(taken.size() == frames);
    }

    FollowOrder order;
    std::vector<ArrivalResult> taken;
    std::vector<std::string> problems, news;
    Progress progress;
};

}  // namespace

TEST_CASE("what is taken while a camera is followed is copied and gets its baseline, and what was on it stays there",
          "[studio][cable]") {
    StudioWithCamera s;
    s.order.how.set = "Evening";
    const auto following = s.follow();
    following->step(s.progress);
    s.shoot("SP0002", "NEW1");
    s.until(*following, 1);
    CHECK(s.taken[0].what == ArrivalResult::What::baseline);
    CHECK(s.taken[0].frame == s.job("NEW1"));
    CHECK(read_file(s.job("NEW1"), 1u << 30) == read_file(rig_frame("SP0002"), 1u << 30));
    CHECK(read_sheet(s.job("NEW1")).baseline.at(Field::sharpening_amount).number == 30);
    CHECK(read_sheet(s.job("NEW1")).set.at(Field::exposure).number == 0.4);
    CHECK_FALSE(fs::exists(s.job("OLD1")));
    CHECK(fs::exists(s.on_camera("NEW1")));
    const auto log = s.store().intake().newest(10);
    REQUIRE(log.size() == 1);
    CHECK(log[0].way == "cable");
    CHECK(log[0].set == "Evening");
    CHECK(s.problems.empty());
    // Nothing else lies in the folder.
    CHECK(std::distance(fs::directory_iterator(s.path("job")), fs::directory_iterator()) == 2);
}

TEST_CASE("a cable that is pulled is told once, and what was taken meanwhile comes when it is back",
          "[studio][cable]") {
    StudioWithCamera s;
    const auto following = s.follow();
    following->step(s.progress);
    fs::rename(s.path("camera"), s.path("pulled"));
    for (int i = 0; i < 3; ++i) CHECK(following->step(s.progress));
    CHECK_FALSE(following->connected());
    REQUIRE(s.problems.size() == 1);
    fs::copy_file(rig_frame("SP0002"), s.path("pulled") / "DCIM" / "NEW1.dng");
    fs::rename(s.path("pulled"), s.path("camera"));
    s.until(*following, 1);
    CHECK(s.taken[0].frame == s.job("NEW1"));
    CHECK(following->connected());
    CHECK(s.problems.size() == 1);
    REQUIRE(s.news.size() == 1);
    CHECK(s.news[0].find("is back") != std::string::npos);
}

TEST_CASE("a file that is still being written on the camera comes when it is whole", "[studio][cable]") {
    StudioWithCamera s;
    const auto following = s.follow();
    following->step(s.progress);
    const std::string bytes = read_file(rig_frame("SP0002"), 1u << 30);
    write_bytes(s.on_camera("NEW1"), bytes.substr(0, bytes.size() / 2));
    for (int i = 0; i < 30; ++i) CHECK(following->step(s.progress));
    CHECK(s.taken.empty());
    REQUIRE(s.problems.size() == 1);  // told once
    CHECK(s.problems[0].find("NEW1.dng") != std::string::npos);
    CHECK(fs::is_empty(s.path("job")));
    write_bytes(s.on_camera("NEW1"), bytes);
    s.until(*following, 1);
    CHECK(s.taken[0].what == ArrivalResult::What::baseline);
    CHECK_FALSE(following->step(s.progress));
}

TEST_CASE("what is followed once more is neither copied nor taken in twice, and another file of a name is kept apart",
          "[studio][cable]") {
    StudioWithCamera s;
    s.order.older = true;
    {
        const auto following = s.follow();
        s.until(*following, 1);
    }
    // Killed after the copy, before it was taken in.
    fs::copy_file(rig_frame("SP0004"), s.job("CUT"));
    s.shoot("SP0004", "CUT");
    // Another picture under a name that is taken.
    fs::remove(s.on_camera("OLD1"));
    s.shoot("SP0002", "OLD1");
    const auto following = s.follow();
    s.until(*following, 3);
    CHECK(s.taken[1].frame == s.job("CUT"));
    CHECK(s.taken[2].frame == s.job("OLD1-2"));
    CHECK(following->received() == 1);
    CHECK(s.store().frames().count() == 3);
    CHECK(read_file(s.job("OLD1"), 1u << 30) == read_file(rig_frame("SP0001"), 1u << 30));
}

TEST_CASE("names are made of what a frame says, and a counter goes on where it ended", "[studio][cable]") {
    StudioWithCamera s;
    s.order.file_name = "{model}/{number:3}";
    s.order.older = true;
    s.until(*s.follow(), 1);
    s.shoot("SP0002", "NEW1");
    s.until(*s.follow(), 2);
    CHECK(s.taken[0].frame == s.path("job") / "Brimholt B2" / "001.dng");
    CHECK(s.taken[1].frame == s.path("job") / "Brimholt B2" / "002.dng");
    s.order.file_name = "{moddel}";
    CHECK_THROWS_AS(s.follow(), Error);
    s.order.file_name = "{name}";
    s.order.to = s.path("nowhere");
    CHECK_THROWS_AS(s.follow(), Error);
    s.order.to = s.path("job");
    s.order.how.set = "Evenings";
    CHECK_THROWS_AS(s.follow(), Error);
}

TEST_CASE("films come along, without a baseline, and what is no picture stays on the camera", "[studio][cable]") {
    StudioWithCamera s;
    s.order.older = true;
    write_bytes(s.path("camera") / "DCIM" / "A1.mov", "moving");
    write_bytes(s.path("camera") / "DCIM" / "A1.ctg", "catalogue");
    fs::copy_file(rig_frame("SP0003"), s.path("camera") / "DCIM" / "A\xff.dng");  // its name is no UTF-8
    const auto following = s.follow();
    s.until(*following, 2);
    CHECK(read_file(s.path("job") / "A1.mov") == "moving");
    CHECK_FALSE(fs::exists(s.path("job") / "A1.ctg"));
    CHECK(read_file(s.path("job") / "A\xff.dng") == read_file(rig_frame("SP0003")));
    CHECK(following->received() == 3);
    for (int i = 0; i < 3; ++i) following->step(s.progress);
    CHECK(s.problems.empty());
}

TEST_CASE("what came before somebody ends the following is taken in", "[studio][cable]") {
    StudioWithCamera s;
    s.order.older = true;
    s.shoot("SP0002", "OLD2");
    const auto following = s.follow();
    // Ended as soon as the first frame lies in the folder.
    std::atomic<bool> over{false};
    std::thread hand([&] {
        while (!over && !fs::exists(s.job("OLD1"))) std::this_thread::yield();
        s.progress.cancel();
    });
    try {
        for (int i = 0; i < 20; ++i) following->step(s.progress);
    } catch (const Cancelled&) {
    }
    over = true;
    hand.join();
    int copied = 0;
    for (const auto& entry : fs::directory_iterator(s.path("job"))) copied += entry.path().extension() == ".dng";
    CHECK(copied >= 1);
    CHECK(s.store().frames().count() == copied);
    CHECK(s.taken.size() == static_cast<std::size_t>(copied));
    for (const ArrivalResult& t : s.taken) CHECK(t.what == ArrivalResult::What::baseline);
}

TEST_CASE("while a rollout is at work, frames are copied and wait for it", "[studio][cable]") {
    StudioWithCamera s;
    const auto following = s.follow();
    following->step(s.progress);
    {
        Store other = s.store();
        const auto claim = other.rollouts().lease({s.job("NEW1")}, "A rollout of N. Orth");
        s.shoot("SP0002", "NEW1");
        for (int i = 0; i < 3; ++i) CHECK(following->step(s.progress));
        CHECK(fs::exists(s.job("NEW1")));
        CHECK(s.taken.empty());
        REQUIRE(s.problems.size() == 1);
        CHECK(s.problems[0].find("N. Orth") != std::string::npos);
    }
    s.until(*following, 1);
    CHECK(s.taken[0].what == ArrivalResult::What::baseline);
}

TEST_CASE("in a watched folder a frame from the camera gets what the folder says, once", "[studio][cable]") {
    StudioWithCamera s;
    IntakeFolder folder;
    folder.folder = s.path("job");
    folder.set = "Evening";
    {
        Store store = s.store();
        store.intake().put(folder);
        s.order.how = order_for(store, s.path("job"), "T. Ester");
    }
    CHECK(s.order.how.set == "Evening");
    Watching watching(
        s.store().source(), {folder}, "T. Ester", {std::chrono::milliseconds(20), false},
        {[](const ArrivalResult&, const IntakeReport&, const IntakeFolder&) {}, [](const std::string&) {}});
    const auto following = s.follow();
    following->step(s.progress);
    s.shoot("SP0002", "NEW1");
    s.until(*following, 1);
    for (int i = 0; i < 8; ++i) watching.step(s.progress);
    CHECK(s.store().intake().newest(10).size() == 1);
    CHECK(watching.waiting() == 0);
}
