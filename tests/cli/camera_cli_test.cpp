// SPDX-License-Identifier: GPL-3.0-or-later
// Cameras on a cable by the command line, with the rig's own.
#include <algorithm>
#include <set>
#include <thread>

#include "cli/studio_by_hand.h"
#include "rig/scenario.h"
#include "rollout/sheet.h"

using namespace optrel;
using namespace optrel::test;
using nlohmann::json;

namespace {

std::string quoted(const fs::path& path) { return "'" + path.string() + "'"; }

}  // namespace

TEST_CASE("the rig's camera is released by hand, listed and followed", "[cli][cable]") {
    StudioByHand s;
    const fs::path camera = s.path("camera");
    fs::create_directories(camera);
    fs::create_directories(s.path("job"));
    s.good("baseline pin", "--field sharpening_amount --value 30");
    s.good("baseline publish");
    const CommandResult shot = cli("rig shoot --camera " + quoted(camera) + " --json");
    REQUIRE(shot.status == 0);
    const fs::path file = json::parse(shot.out)["files"][0].get<std::string>();
    CHECK(file == camera / "DCIM" / "100RIG" / "RG0001.dng");
    const CommandResult list = cli("camera list --folder " + quoted(camera) + " --json");
    REQUIRE(list.status == 0);
    CHECK(json::parse(list.out).back()["port"] == "disk:" + camera.string());
    const CommandResult files = cli("camera files --folder " + quoted(camera) + " --json");
    REQUIRE(files.status == 0);
    REQUIRE(json::parse(files.out).size() == 1);
    CHECK(json::parse(files.out)[0]["name"] == "RG0001.dng");
    CHECK(json::parse(files.out)[0]["bytes"] == fs::file_size(file));
    const std::string told =
        s.good("camera follow", "--once --json --folder " + quoted(camera) + " --to " + quoted(s.path("job")));
    CHECK(json::parse(told)["event"] == "baseline");
    CHECK(read_file(s.path("job") / "RG0001.dng", 1u << 30) == read_file(file, 1u << 30));
    CHECK(read_sheet(s.path("job") / "RG0001.dng").baseline.at(Field::sharpening_amount).number == 30);
    CHECK(s.good("camera follow", "--once --folder " + quoted(camera) + " --to " + quoted(s.path("job"))).empty());
}

TEST_CASE("of shutters that are pressed at once each gives a picture of its own", "[cli][cable]") {
    const TemporaryFolder camera;
    std::vector<std::thread> presses;
    for (int i = 0; i < 3; ++i)
        presses.emplace_back([&] {
            Progress progress;
            rig::shoot(rig::demo_scenario(), "brimholt-a", camera.path(), progress);
        });
    for (std::thread& t : presses) t.join();
    std::set<std::string> pictures;
    for (const char* name : {"RG0001.dng", "RG0002.dng", "RG0003.dng"})
        pictures.insert(file_hash(camera / "DCIM" / "100RIG" / name));
    CHECK(pictures.size() == 3);
}

TEST_CASE("cameras that are not there and folders that are mistyped are refused in a sentence", "[cli][cable]") {
    StudioByHand s;
    fs::create_directories(s.path("camera"));
    const std::string camera = "--folder " + quoted(s.path("camera"));
    s.refused("camera follow", camera + " --once --to " + quoted(s.path("jobs")));
    s.refused("camera follow", "--folder " + quoted(s.path("cammera")) + " --to " + quoted(s.path("frames")));
    s.refused("camera follow", camera + " --camera 'Another Camera' --to " + quoted(s.path("frames")));
    s.refused("camera follow", camera + " --set Evening --to " + quoted(s.path("frames")));
    s.refused("camera follow", camera + " --name '{moddel}' --to " + quoted(s.path("frames")));
    s.refused("camera follow", camera + " --count 0 --to " + quoted(s.path("frames")), 2);
    s.refused("camera follow", camera + " --once --count 3 --to " + quoted(s.path("frames")), 2);
    s.refused("camera follow", camera + " --set-until 2026-01-01T00:00:00Z --to " + quoted(s.path("frames")), 2);
    CHECK(cli("rig --out " + quoted(s.path("out")) + " shoot --camera " + quoted(s.path("camera"))).status == 2);
    CHECK(fs::is_empty(s.path("camera")));
    CHECK(cli("camera release " + camera).status == 1);
    CHECK(cli("camera").status == 2);
    CHECK(cli("rig shoot --camera " + quoted(s.path("cammera"))).status == 1);
    CHECK(cli("rig shoot --body nobody --camera " + quoted(s.path("camera"))).status == 1);
    CHECK(cli("rig").status == 2);
}
