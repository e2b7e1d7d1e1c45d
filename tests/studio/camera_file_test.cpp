// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/calibration/camera_file.h"

#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include "cli/studio_by_hand.h"
#include "support/sample_profile.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;
using nlohmann::json;

TEST_CASE("a lens leaves as map, camera model and tables, and a camera model comes back as a profile",
          "[cli][camera][map]") {
    const StudioByHand s;
    write_bytes(s.path("p.json"), profile_to_json(sample_profile()));
    const std::string lens = fmt::format("--profile '{}' --size 2464x1640", s.path("p.json").string());
    const auto ok = [](const std::string& command) {
        const CommandResult r = cli(command);
        INFO(command << ": " << r.err);
        REQUIRE(r.status == 0);
        return r.out;
    };
    const auto refused = [](const std::string& command, int status) {
        const CommandResult r = cli(command);
        INFO(command << ": " << r.err);
        CHECK(r.status == status);
    };
    const std::string small = fmt::format("--profile '{}' --size 616x410 --pitch-um 37.6", s.path("p.json").string());
    const json map = json::parse(
        ok(fmt::format("map-image {} --planes --sigma --out '{}' --json", small, s.path("m.exr").string())));
    CHECK(map["channels"].size() == 7);
    ok(fmt::format("map-image {} --direction to-ideal --out '{}'", small, s.path("m.tif").string()));
    CHECK(fs::exists(s.path("m-x.tif")));
    refused(fmt::format("map-image {} --out '{}'", small, s.path("m.exr").string()), 1);  // it is there
    refused(fmt::format("map-image {} --planes --out '{}'", small, s.path("n.tif").string()), 2);
    refused(fmt::format("map-image {} --direction up --out '{}'", small, s.path("n.exr").string()), 1);
    refused(fmt::format("map-image {} --out '{}'", small, s.path("n.png").string()), 2);

    const json written =
        json::parse(ok(fmt::format("camera-model write {} --out '{}' --json", lens, s.path("c.yml").string())));
    CHECK(written["fit_largest_px"] < 0.02);
    ok(fmt::format("camera-model write {} --coefficients 8 --out '{}'", lens, s.path("c.json").string()));
    refused(fmt::format("camera-model write {} --coefficients 6 --out '{}'", lens, s.path("d.yml").string()), 1);
    refused(fmt::format("camera-model write {} --out '{}'", lens, s.path("c.yml").string()), 1);

    const std::string frame = fmt::format("--frame '{}'", s.frame("SP0001").string());
    const std::string file = "'" + s.path("c.yml").string() + "' ";
    CHECK(json::parse(s.good("store list profiles")).empty());
    const json shown = json::parse(s.good("camera-model read", file + frame + " --json"));
    CHECK(shown["followed_to_px"] < 1e-6);
    CHECK(json::parse(s.good("store list profiles")).empty());
    const json made = json::parse(s.good("camera-model read", file + frame + " --publish --json"));
    const json list = json::parse(s.good("store list profiles"));
    REQUIRE(list.size() == 1);
    CHECK(list[0]["origin"] == "calibration file");
    // It is taken only where it is assigned, and as a stand-in then.
    CHECK(json::parse(s.good("resolve", frame + " --json"))["profile"]["grade"] == "none");
    s.good("baseline pin", "--field lens_profile --value " + made["id"].get<std::string>());
    s.good("baseline publish");
    CHECK(json::parse(s.good("resolve", frame + " --json"))["profile"]["grade"] == "stand-in");
    const json again = json::parse(s.good("camera-model read", file + frame + " --json"));
    CHECK(again["difference_from_profile"]["largest_px"] < 0.01);
    s.refused("camera-model read", "'" + s.path("p.json").string() + "' " + frame);
    s.refused("camera-model read", "'" + s.path("none.yml").string() + "' " + frame);

    fs::create_directories(s.path("tables"));
    ok(fmt::format("tables --profile '{}' --out '{}'", s.path("p.json").string(), s.path("tables").string()));
    CHECK(fs::exists(s.path("tables") / "distortion.csv"));
    refused(fmt::format("tables --profile '{}' --out '{}'", s.path("p.json").string(), s.path("nowhere").string()), 2);
}
