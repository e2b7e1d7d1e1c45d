// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/profiles/profile_use.h"

#include <Eigen/Core>

#include <catch2/catch.hpp>

#include "studio/frames/knowledge.h"
#include "studio/intake/take_in.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

Profile profile(const char* serial, int version = 1, double focal = 35, const char* time = "2026-03-02T10:00:00Z") {
    Profile p;
    p.id = std::string("p-") + serial;
    p.version = version;
    p.lens = p.name = "Lumenfold 35mm f/2.8";
    p.lens_serial = serial;
    p.camera = "Brimholt B2";
    p.geometry = {2464, 1640, 9.4};
    p.provenance.time = time;
    ProfileNode n;
    n.focal_mm = focal;
    n.setting = {35, 4, 1};
    n.largest_radius_mm = 13.9;
    n.covariance = Eigen::MatrixXd::Identity(13, 13) * 1e-12;
    p.nodes = {n};
    return p;
}

FrameRecord frame(const char* name, const char* body, const char* lens, const char* lens_serial, int width = 2464) {
    FrameRecord f;
    f.path = std::string("/f/") + name;
    Metadata m = f.metadata;
    m.maker = "Brimholt";
    m.model = "Brimholt B2";
    m.body_serial = body;
    m.lens = lens;
    m.lens_serial = lens_serial;
    m.focal_mm = 35;
    m.aperture = 4;
    m.width = width;
    m.height = width * 2 / 3;
    m.pitch_um = 9.4;
    f.metadata = m;
    return f;
}

}  // namespace

TEST_CASE("lenses in use are counted by the grade of their frames", "[studio]") {
    const std::vector<FrameRecord> frames{frame("a", "1", "Lumenfold 35mm f/2.8", "A"),
                                          frame("b", "1", "lumenfold 35 mm F2.8", "B"),
                                          frame("c", "1", "Aldercroft 60mm f/4", ""), frame("d", "1", "", "")};
    const auto use = lens_use(frames, Fleet(), {profile("A")});
    REQUIRE(use.size() == 3);
    CHECK(use.back().lens == "Lumenfold 35mm f/2.8");
    for (const LensUse& u : use) {
        if (u.lens.empty()) CHECK(u.without() == 1);
        if (u.lens.find("Aldercroft") == 0) CHECK(u.against.front().find("another lens") != std::string::npos);
        if (u.lens.find("35") != std::string::npos) {
            CHECK(u.grades.at(MatchGrade::own_copy) == 1);
            CHECK(u.grades.at(MatchGrade::same_model) == 1);
        }
    }
}

TEST_CASE("the grid tells frames that there are, and what one would get where there are none", "[studio]") {
    const std::vector<FrameRecord> frames{frame("a", "1", "Lumenfold 35mm f/2.8", "A"),
                                          frame("b", "1", "Lumenfold 35mm f/2.8", "A", 1600),
                                          frame("c", "1", "Somebody 20mm", "")};
    Register r;
    for (const char* serial : {"1", "2"}) {
        Body b = body_from(frames[0].metadata);
        b.serial = serial;
        b.id = id_for(b);
        if (*serial == '2') b.width = 0;  // imported without a sensor: the model tells it
        r.bodies.push_back(b);
    }
    r.models.push_back(model_from(frames[0].metadata));
    r.lenses.push_back(lens_from(frames[0].metadata));
    const Fleet fleet(r, {});
    Progress progress;
    const LensGrid grid = lens_grid(frames, fleet, {profile("A")}, progress);
    REQUIRE(grid.bodies.size() == 2);
    REQUIRE(grid.lenses.size() == 2);
    CHECK(grid.at(0, 0).frames == 2);
    CHECK(grid.at(0, 0).poorest() == MatchGrade::rescaled);
    CHECK(grid.at(0, 0).grades.at(MatchGrade::own_copy) == 1);
    CHECK(grid.at(1, 0).frames == 0);
    CHECK(grid.at(1, 0).poorest() == MatchGrade::own_copy);
    CHECK(grid.lenses[1].label.find("copy unknown") != std::string::npos);
    CHECK(grid.at(1, 1).grades.empty());
    progress.cancel();
    CHECK_THROWS_AS(lens_grid(frames, fleet, {}, progress), Cancelled);
}

TEST_CASE("profiles that have changed are told", "[studio]") {
    CHECK(profile_concerns({profile("A")}).empty());
    Profile changed = profile("A", 2, 35, "2027-03-01T00:00:00Z");
    changed.nodes[0].model = LensModel(LensModelKind::radial_tangential, {-0.02, 0, 0, 0, 0, 0, 0});
    const auto drift = profile_concerns({profile("A"), changed});
    REQUIRE(drift.size() == 1);
    CHECK(drift[0].verdict == RepeatVerdict::drifted);
    CHECK(profile_concerns({}).empty());
}

TEST_CASE("an index that was stopped goes on where it was", "[studio]") {
    const TemporaryFolder folder;
    fs::create_directories(folder / "in");
    for (int i = 0; i < 30; ++i) fs::copy_file(rig_frame("SP0001"), folder / "in" / ("f" + std::to_string(i) + ".dng"));
    Store store(folder / "s", Access::begin);
    std::vector<std::string> problems;
    const auto files = frame_files(folder / "in", problems);
    Progress stopped([&](int done, int, const std::string&) {
        if (done >= 10) stopped.cancel();
    });
    const auto put = [&](const std::vector<FrameRecord>& portion) { store.frames().put(portion); };
    CHECK_THROWS_AS(index_files(files, store.frames().all(), put, problems, stopped), Cancelled);
    const int kept = store.frames().count();
    CHECK(kept >= 10);
    CHECK(kept < 30);
    Progress progress;
    CHECK(index_files(files, store.frames().all(), put, problems, progress) == 30 - kept);
    CHECK(store.frames().count() == 30);
}
