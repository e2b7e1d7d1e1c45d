// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/checks/drift.h"

#include <catch2/catch.hpp>

#include "base/files.h"
#include "cli/studio_by_hand.h"
#include "rollout/sheet.h"
#include "studio/rollout/rolling.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

struct RolledOut : StudioByHand {
    RolledOut() {
        good("store index", "'" + path("frames").string() + "'");
        roll_out(20);
        roll_out(30);
    }
    void roll_out(int sharpening) const {
        good("baseline pin", "--field sharpening_amount --value " + std::to_string(sharpening));
        good("baseline publish");
        good("rollout apply", "--all");
    }
    Store store() const { return Store(path("s").string(), Access::write); }
    DriftReport check() const {
        Store s = store();
        Progress progress;
        return check_drift(s, {}, progress);
    }
    /// "SP0001 older", one after the other.
    std::vector<std::string> found() const {
        std::vector<std::string> out;
        for (const DriftFinding& d : check().findings)
            out.push_back(d.frame.filename().string().substr(0, 6) + " " + to_string(d.kind));
        return out;
    }
    Settled settle() const {
        Store s = store();
        Progress progress;
        return settle_drift(s, check_drift(s, {}, progress).findings, progress);
    }
};

using Found = std::vector<std::string>;

}  // namespace

TEST_CASE("nothing drifts after a rollout, nor after it was taken back", "[studio][drift]") {
    const RolledOut s;
    CHECK(s.found().empty());
    CHECK(s.check().frames == 4);
    s.good("rollout rollback");
    CHECK(s.found().empty());
    s.good("rollout rollback", "--number 1");
    CHECK(s.found().empty());
}

TEST_CASE("what took the place of a frame and is no file is told", "[studio][drift]") {
    const RolledOut s;
    fs::remove(s.frame("SP0001"));
    fs::create_directory(s.frame("SP0001"));
    const DriftReport report = s.check();
    REQUIRE(report.findings.size() == 1);
    CHECK(report.findings[0].frame == s.frame("SP0001"));
    CHECK(report.findings[0].what.find("is no file any more") != std::string::npos);
}

TEST_CASE("sidecars that are not as they were left are told by kind", "[studio][drift]") {
    const RolledOut s;
    const std::string whole = *read_sidecar(s.frame("SP0001"));
    SECTION("missing, and written again") {
        fs::remove(sidecar_path(s.frame("SP0001")));
        CHECK(s.found() == Found{"SP0001 sidecar missing"});
        CHECK(s.settle().settled == 1);
        CHECK(*read_sidecar(s.frame("SP0001")) == whole);
        CHECK(s.found().empty());
    }
    SECTION("an older one came back from a copy") {
        Sheet sheet = read_sheet(s.frame("SP0001"));
        sheet.revision = 1;
        write_bytes(sidecar_path(s.frame("SP0001")), sheet_to_xmp(sheet));
        CHECK(s.found() == Found{"SP0001 older"});
        CHECK(s.settle().settled == 0);
    }
    SECTION("one of a revision that is not published here") {
        Sheet sheet = read_sheet(s.frame("SP0001"));
        sheet.revision = 9;
        write_bytes(sidecar_path(s.frame("SP0001")), sheet_to_xmp(sheet));
        CHECK(s.found() == Found{"SP0001 newer"});
    }
    SECTION("by hand, and by somebody else") {
        edit_sheet(s.frame("SP0001"), [](Sheet& sheet) { sheet.hand[Field::exposure] = {1, ""}; });
        edit_sheet(s.frame("SP0002"), [](Sheet& sheet) { sheet.baseline[Field::exposure] = {1, ""}; });
        CHECK(s.found() == Found{"SP0001 changed by hand", "SP0002 changed by another"});
        CHECK(s.settle().settled == 0);
    }
    SECTION("damaged, a folder, and of 500 MB") {
        write_bytes(sidecar_path(s.frame("SP0001")), whole.substr(0, whole.size() / 2));
        fs::remove(sidecar_path(s.frame("SP0002")));
        fs::create_directory(sidecar_path(s.frame("SP0002")));
        write_bytes(sidecar_path(s.frame("SP0004")), "x");
        fs::resize_file(sidecar_path(s.frame("SP0004")), 500u << 20);
        fs::remove(sidecar_path(s.frame("SP0007")));
        fs::create_symlink(sidecar_path(s.frame("SP0001")), sidecar_path(s.frame("SP0007")));
        CHECK(s.found() == Found{"SP0001 unreadable", "SP0002 unreadable", "SP0004 unreadable", "SP0007 unreadable"});
        for (const DriftFinding& d : s.check().findings) CHECK(is_one_sentence(d.what));
    }
}

TEST_CASE("frames that were moved are known again by their contents, and their sidecars go along", "[studio][drift]") {
    const RolledOut s;
    const fs::path there = s.path("frames") / "sorted" / "first.dng";
    fs::create_directory(there.parent_path());
    const std::string sidecar = *read_sidecar(s.frame("SP0001"));
    SECTION("the sidecar stayed behind") {
        fs::rename(s.frame("SP0001"), there);
        const DriftReport report = s.check();
        REQUIRE(report.findings.size() == 1);
        CHECK(report.findings[0].kind == Drift::moved);
        CHECK(report.findings[0].moved_to == there);
        CHECK(s.settle().failed.empty());
        CHECK(*read_sidecar(there) == sidecar);
        CHECK_FALSE(fs::exists(sidecar_path(s.frame("SP0001"))));
        CHECK(s.found().empty());
        // Rollouts of before find the frame where it is now.
        s.good("rollout rollback");
        CHECK(read_sheet(there).revision == 1);
        s.good("rollout rollback", "--number 1");
        CHECK_FALSE(read_sidecar(there));
        // And back to where it was.
        fs::rename(there, s.frame("SP0001"));
        CHECK(s.found() == Found{"first. moved"});
        CHECK(s.settle().settled == 1);
        s.good("rollout again", "--number 1");
        CHECK(read_sheet(s.frame("SP0001")).revision == 1);
    }
    SECTION("the sidecar went along") {
        fs::rename(s.frame("SP0001"), there);
        fs::rename(sidecar_path(s.frame("SP0001")), sidecar_path(there));
        CHECK(s.found() == Found{"SP0001 moved"});
        CHECK(s.settle().settled == 1);
        CHECK(s.found().empty());
    }
    SECTION("another sidecar lies there already: both are kept") {
        fs::rename(s.frame("SP0001"), there);
        edit_sheet(there, [](Sheet& sheet) { sheet.hand[Field::exposure] = {1, ""}; });
        const Settled settled = s.settle();
        REQUIRE(settled.failed.size() == 1);
        CHECK(is_one_sentence(settled.failed[0]));
        CHECK(fs::exists(sidecar_path(s.frame("SP0001"))));
        CHECK(read_sheet(there).hand.size() == 1);
    }
    SECTION("another picture of the same size is not taken for it") {
        std::string other = read_file(s.frame("SP0001"));
        for (std::size_t i = other.size() / 2; i < other.size() / 2 + 64; ++i) other[i] = static_cast<char>(~other[i]);
        fs::remove(s.frame("SP0001"));
        write_bytes(there, other);
        CHECK(s.found() == Found{"SP0001 frame gone"});
    }
    SECTION("the whole folder got another name") {
        fs::rename(s.path("frames"), s.path("spring"));
        CHECK(s.check().findings.size() == 4);
        CHECK(s.settle().settled == 4);
        CHECK(s.found().empty());
        CHECK(s.store().frames().find(s.path("spring") / "SP0001.dng"));
    }
}

TEST_CASE("sidecars without a frame are told, and a check goes on where it was ended", "[studio][drift]") {
    const RolledOut s;
    write_bytes(s.path("frames") / "lost.dng.optrel.xmp", *read_sidecar(s.frame("SP0001")));
    CHECK(s.found() == Found{"lost.d orphaned"});
    Store store = s.store();
    Progress progress;
    CHECK(check_drift(store, s.frame("SP0002"), progress).frames == 2);
    progress.cancel();
    CHECK_THROWS_AS(check_drift(store, {}, progress), Cancelled);
}

TEST_CASE("the command line checks and settles", "[cli][drift]") {
    const RolledOut s;
    fs::remove(sidecar_path(s.frame("SP0002")));
    const std::string told = s.good("rollout check");
    CHECK(told.find("sidecar missing") != std::string::npos);
    CHECK(told.find("SP0002") != std::string::npos);
    const auto report = nlohmann::json::parse(s.good("rollout check", "--settle --json"));
    CHECK(report["settled"] == 1);
    CHECK(nlohmann::json::parse(s.good("rollout check", "--json"))["findings"].empty());
    // To go on behind a frame that there is not would look like a check of few frames.
    s.refused("rollout check", "--start-after '" + s.frame("SP0003").string() + "'");
    s.good("rollout check", "--start-after '" + s.frame("SP0002").string() + "'");
}
