// SPDX-License-Identifier: GPL-3.0-or-later
// The command line as scripts use it: a real process, its exit status, its two streams.
#include <fmt/format.h>

#include <algorithm>

#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include "base/files.h"
#include "exchange/delivery.h"
#include "support/pictures.h"
#include "support/rig_run.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;
using nlohmann::json;

namespace {

std::string all(const std::string& prefix) {
    std::string out;
    for (const fs::path& p : rig_frames(prefix)) out += fmt::format(" '{}'", p.string());
    return out;
}

}  // namespace

TEST_CASE("calibrate prints what it promises", "[cli]") {
    const TemporaryFolder folder;
    const CommandResult r =
        cli(fmt::format("calibrate --chart checker:15x10:30 --frames {} --flats {} --out '{}' --json", all("CH"),
                        all("FF"), (folder / "p.json").string()));
    REQUIRE(r.status == 0);
    const json j = json::parse(r.out);
    for (const char* key : {"frames_used", "frames_dropped", "corners", "rms_px", "held_out_rms_px", "model",
                            "focal_px", "centre", "coverage", "max_sigma_px", "findings", "seconds"})
        CHECK(j.contains(key));
    CHECK(j["frames_used"] == 13);
    CHECK(j["frames_dropped"].empty());
    CHECK_NOTHROW(lens_model_kind(j["model"]));
    CHECK(profile_from_json(read_file(folder / "p.json"), "p").nodes.size() == 1);
}

TEST_CASE("map prints the mapping both ways", "[cli][comma]") {
    const json ideal = json::parse(cli(fmt::format("map --profile '{}' --size 2464x1640 --pitch-um 9.4 --focal 35 "
                                                   "--aperture 4 --distance 1 --grid 5x3 --json",
                                                   solved_rig_profile().string()))
                                       .out);
    CHECK(ideal["size"] == json({2464, 1640}));
    REQUIRE(ideal["points"].size() == 15);
    CHECK(ideal["points"][0]["ideal"] == json({0.0, 0.0}));
    CHECK(ideal["points"][14]["ideal"] == json({2464.0, 1640.0}));
    for (const json& p : ideal["points"]) {
        CHECK(p["green"].size() == 2);
        CHECK(p["red"].size() == 2);
        CHECK(p["blue"].size() == 2);
        CHECK(p["gain"].size() == 3);
        CHECK(p["sigma_px"].get<double>() >= 0);
    }
    CHECK(ideal["points"][7]["gain"][1].get<double>() == Approx(1).margin(0.01));
    const json frame = json::parse(cli(fmt::format("map --profile '{}' --size 2464x1640 --of frame --grid 3x3 --json",
                                                   solved_rig_profile().string()))
                                       .out);
    const json& ray = frame["points"][0]["ray"];
    CHECK(ray[0].get<double>() < 0);
    CHECK(ray[1].get<double>() < 0);
    CHECK(ray[2].get<double>() > 0);
    CHECK(std::hypot(ray[0].get<double>(), ray[1].get<double>(), ray[2].get<double>()) == Approx(1));
}

TEST_CASE("correct writes a developed 16-bit TIFF", "[cli]") {
    const TemporaryFolder folder;
    const std::string frame = rig_frame("SP0001").string(), before = file_hash(rig_frame("SP0001"));
    for (const char* border : {"--fill", "--scale 1.1", "--keep-border"}) {
        const CommandResult r =
            cli(fmt::format("correct --profile '{}' --anyway --frame '{}' --out '{}' {} --overwrite --json",
                            solved_rig_profile().string(), frame, (folder / "o.tif").string(), border));
        REQUIRE(r.status == 0);
        const double scale = json::parse(r.out)["scale"];
        if (std::string(border) == "--scale 1.1") CHECK(scale == Approx(1.1));
        if (std::string(border) == "--keep-border") CHECK(scale == 1);
        const cv::Mat picture = read_picture(folder / "o.tif");
        CHECK(picture.depth() == CV_16U);
        CHECK(picture.cols == 2464);
    }
    CHECK(file_hash(rig_frame("SP0001")) == before);
}

TEST_CASE("frames are exported by deliveries, shipped and own, with what differs said beside them", "[cli][export]") {
    const TemporaryFolder folder;
    const std::string store = fmt::format("--store '{}'", (folder / "store").string()),
                      frame = rig_frame("SP0001").string(), out = (folder / "out").string();
    REQUIRE(cli("store begin " + store).status == 0);
    REQUIRE(cli("delivery save Catalogue --as jpeg --longest-side 400 --name '{model}/{name}' " + store).status == 0);
    CHECK(cli("delivery save Catalogue --as png " + store).status == 2);
    const json list = json::parse(cli("delivery list --json " + store).out);
    CHECK(list.size() == shipped_deliveries().size() + 1);
    const CommandResult r =
        cli(fmt::format("export {} --delivery catalogue --quality 60 --frames '{}' '{}' --out '{}' --json", store,
                        frame, (folder / "none.dng").string(), out));
    CHECK(r.status == 1);
    CHECK(is_one_sentence(r.err.substr(12, r.err.size() - 13)));
    const json done = json::parse(r.out)["exported"];
    REQUIRE(done.size() == 2);
    CHECK(done[0]["size"] == json({400, 266}));
    CHECK(done[1].contains("problem"));
    CHECK(read_picture(done[0]["out"].get<std::string>()).cols == 400);
    const std::string copy = fmt::format("export --profile '{}' --anyway --as dng --frames '{}' --out '{}' ",
                                         solved_rig_profile().string(), frame, out);
    const json raw = json::parse(cli(copy + "--json").out)["exported"][0];
    CHECK(raw["geometry"]["opcode"] == "WarpRectilinear");
    CHECK(cli(copy).status == 1);  // it is there
    CHECK(cli(copy + "--overwrite").status == 0);
    for (const char* wrong :
         {"", "--as gif", "--delivery Catalog", "--delivery Review --as png", "--as jpeg --bits 16",
          "--as tiff --space mauve", "--as tiff --name '{nmae}'", "--as tiff --metadata plce", "--as tiff --taken burn",
          "--as jpeg --quality 0x", "--as jpeg --quality 0", "--as tiff --bits 0", "--as tiff --longest-side -5",
          "--as tiff --name ''", "--as tiff --quality 80", "--as dng --space romm", "--as png --embed-original",
          "--as tiff --space ''"}) {
        const CommandResult refused =
            cli(fmt::format("export {} {} --frames '{}' --out '{}'", store, wrong, frame, out));
        INFO(wrong << ": " << refused.err);
        CHECK(refused.status != 0);
        CHECK(std::count(refused.err.begin(), refused.err.end(), '\n') == 1);
    }
    const std::string file = (folder / "r.json").string();
    CHECK(cli(fmt::format("delivery show Catalogue --out '{}' {}", file, store)).status == 0);
    CHECK(cli("delivery delete Catalogue " + store).status == 0);
    CHECK(cli("delivery delete Archive " + store).status == 1);
    CHECK(cli(fmt::format("delivery save --file '{}' {}", file, store)).status == 0);
    CHECK(cli(fmt::format("delivery save --file '{}' --as tiff {}", file, store)).status == 2);
    // A mistyped folder of a single file is not made.
    CHECK(cli(fmt::format("correct --profile '{}' --anyway --frame '{}' --out '{}'", solved_rig_profile().string(),
                          frame, (folder / "mistyped" / "a.tif").string()))
              .status == 1);
    CHECK_FALSE(fs::exists(folder / "mistyped"));
    // What is corrected already is said when it comes in, and gets no correction on top.
    const std::string corrected = fmt::format("export --profile '{}' --anyway --as tiff --frames '{}' --out '{}'",
                                              solved_rig_profile().string(), frame, (folder / "in").string());
    REQUIRE(cli(corrected).status == 0);
    const CommandResult in = cli(fmt::format("store index {} '{}' --json", store, (folder / "in").string()));
    CHECK(json::parse(in.out)["corrected_already"].size() == 1);
}

TEST_CASE("the whole way through a store", "[cli]") {
    const TemporaryFolder folder;
    fs::create_directory(folder / "frames");
    for (const char* name : {"SP0001", "SP0002", "SP0004", "SP0007"})
        fs::copy_file(rig_frame(name), folder / "frames" / (std::string(name) + ".dng"));
    const std::string store = fmt::format("--store '{}'", (folder / "store").string());
    const auto ok = [&](const std::string& arguments) {
        const CommandResult r = cli(arguments);
        INFO(arguments << "\n" << r.err);
        REQUIRE(r.status == 0);
        return r.out;
    };
    CHECK(json::parse(ok(
              fmt::format("store index {} --json '{}'", store, (folder / "frames").string())))["new_or_changed"] == 4);
    ok(fmt::format("store publish-profile {} '{}'", store, solved_rig_profile().string()));
    ok(fmt::format("store register {} --body 'Brimholt B2/B2-0117' --name 'Stand 1' --asset-tag HB-1", store));
    CHECK(json::parse(ok(fmt::format("store list {} bodies", store))).size() == 3);
    ok(fmt::format("baseline pin {} --field sharpening_amount --value 40", store));
    ok(fmt::format("baseline pin {} --scope model --target 'Brimholt B2' --field luminance_noise --ramp 100:0,800:20",
                   store));
    ok(fmt::format(
        "baseline pin {} --scope body --target 'Brimholt B2/B2-0117' --iso 400-1600 --field exposure --value 0.5",
        store));
    CHECK(json::parse(ok(fmt::format("baseline publish {} --note first --json", store)))["revision"] == 1);

    const json resolved = json::parse(ok(fmt::format("resolve {} --body 'Stand 1' --iso 800 --json", store)));
    CHECK(resolved["fields"]["luminance_noise"]["value"] == 20);
    CHECK(resolved["fields"]["exposure"]["value"] == 0.5);
    CHECK(resolved["fields"]["exposure"]["trace"].size() == 2);
    const json of_frame = json::parse(
        ok(fmt::format("resolve {} --frame '{}' --json", store, (folder / "frames" / "SP0004.dng").string())));
    CHECK(of_frame["facts"]["body_is"] == "known");
    CHECK(of_frame["fields"]["exposure"]["value"] == 0);

    CHECK(json::parse(ok(fmt::format("rollout rehearse {} --json", store)))["outcomes"]["changes"] == 4);
    CHECK_FALSE(fs::exists(folder / "frames" / "SP0001.dng.optrel.xmp"));
    CHECK(json::parse(ok(fmt::format("rollout apply {} --all --json", store)))["written"] == 4);
    ok(fmt::format("frame set --frame '{}' --field tint --value 4", (folder / "frames" / "SP0002.dng").string()));
    ok(fmt::format("frame bare --frame '{}'", (folder / "frames" / "SP0004.dng").string()));
    const json again = json::parse(ok(fmt::format("rollout rehearse {} --json", store)));
    CHECK(again["outcomes"]["kept as hand-set"] == 1);
    CHECK(again["outcomes"]["exempt"] == 1);
    CHECK(again["outcomes"]["same"] == 2);
    const json frames = json::parse(ok(fmt::format("store list {} frames", store)));
    CHECK(frames[1]["state"] == "hand-set");
    CHECK(frames[2]["state"] == "exempt");
    ok(fmt::format("correct {} --frame '{}' --out '{}'", store, (folder / "frames" / "SP0002.dng").string(),
                   (folder / "o.tif").string()));
    ok(fmt::format("frame back-to-baseline --frame '{}'", (folder / "frames" / "SP0002.dng").string()));
    const json back = json::parse(ok(fmt::format("rollout rollback {} --json", store)));
    CHECK(back["written"] == 3);
    CHECK(back["kept"].size() == 1);
    CHECK_FALSE(fs::exists(folder / "frames" / "SP0001.dng.optrel.xmp"));
    CHECK(fs::exists(folder / "frames" / "SP0004.dng.optrel.xmp"));
}

TEST_CASE("a run in the store, measured and published", "[cli]") {
    const TemporaryFolder folder;
    const std::string store = fmt::format("--store '{}'", (folder / "store").string());
    const CommandResult r = cli(fmt::format("run {} --folder '{}' --chart checker:15x10:30 --publish", store,
                                            rig_frame("CH0001").parent_path().string()));
    INFO(r.err);
    REQUIRE(r.status == 0);
    CHECK(r.out.find("13 frames used") != std::string::npos);
    CHECK(json::parse(cli(fmt::format("store list {} profiles", store)).out).size() == 1);
}

TEST_CASE("the document of the fields is what the program says", "[cli]") {
    CHECK(read_file(fs::path(OPTREL_SOURCE) / "docs" / "fields.md") == cli("baseline fields").out);
}

TEST_CASE("wrong usage ends with 2, failed work with 1, each with one sentence", "[cli]") {
    const TemporaryFolder folder;
    write_bytes(folder / "bad.json", "{");
    write_bytes(folder / "empty.dng", "");
    const std::string store = fmt::format("--store '{}'", (folder / "store").string());
    REQUIRE(cli("store begin " + store).status == 0);
    const std::string p = solved_rig_profile().string();
    for (const std::string& usage :
         {std::string(), std::string("--glow"), std::string("calibrate --glow"), std::string("dance"),
          std::string("calibrate --frames x --out y"),
          fmt::format("calibrate --chart dots:3 --frames x --out '{}'", (folder / "o").string()),
          fmt::format("map --profile '{}' --size 12", p), fmt::format("map --profile '{}' --size 100x100 --of moon", p),
          fmt::format("resolution --chart checker:15x10:30 --frames '{}' --frequency nan",
                      rig_frame("CH0001").string()),
          fmt::format("resolve {}", store), fmt::format("baseline pin {} --field glow --value 1", store),
          fmt::format("baseline pin {} --scope moon --field tint --value 1", store),
          fmt::format("correct --frame '{}' --out o.tif", rig_frame("SP0001").string()),
          fmt::format("correct --profile '{}' --frame x --out o --scale 99", p),
          fmt::format("store list {} moons", store)}) {
        const CommandResult r = cli(usage);
        INFO(usage << ": " << r.err);
        CHECK(r.status == 2);
        CHECK(r.out.empty());
        CHECK(std::count(r.err.begin(), r.err.end(), '\n') == 1);
    }
    for (const std::string& work :
         {fmt::format("map --profile '{}' --size 100x100", (folder / "bad.json").string()),
          fmt::format("map --profile '{}' --size 100x100", (folder / "none.json").string()),
          fmt::format("calibrate --chart checker:15x10:30 --frames '{}' --out '{}'", (folder / "empty.dng").string(),
                      (folder / "o").string()),
          fmt::format("calibrate --chart checker:9x7:30 --frames {} --out '{}'", all("CH000"), (folder / "o").string()),
          fmt::format("correct --profile '{}' --frame '{}' --out '{}'", p, (folder / "empty.dng").string(),
                      (folder / "o").string()),
          fmt::format("rollout rehearse {}", store), fmt::format("rollout rollback {}", store),
          fmt::format("resolve {} --body nobody --iso 100", store),
          fmt::format("baseline pin {} --field exposure --value 99", store),
          fmt::format("rig --scenario '{}' --out '{}'", (folder / "bad.json").string(), (folder / "rig").string()),
          fmt::format("store index {} '{}'", store, (folder / "none").string())}) {
        const CommandResult r = cli(work);
        INFO(work << ": " << r.err);
        CHECK(r.status == 1);
        CHECK(r.out.empty());
        CHECK(r.err.find("optrel-cli: ") == 0);
        CHECK(is_one_sentence(r.err.substr(12, r.err.size() - 13)));
    }
    CHECK_FALSE(fs::exists(folder / "o"));
    CHECK(cli("--help").status == 0);
    CHECK(cli("--version").status == 0);
}

TEST_CASE("chart draws PDF and SVG, and says what it drew", "[cli]") {
    const TemporaryFolder folder;
    for (const char* kind : {"checker", "coded"})
        for (const char* extension : {"pdf", "svg"}) {
            const std::string out = (folder / (std::string(kind) + "." + extension)).string();
            const CommandResult r = cli(
                fmt::format("chart --kind {} --squares 15x10 --square-mm 25 --page A3 --out '{}' --json", kind, out));
            INFO(r.err);
            REQUIRE(r.status == 0);
            const auto j = nlohmann::json::parse(r.out);
            CHECK(j.at("chart") == std::string(kind) + ":15x10:25");
            CHECK(j.at("ruler_mm").at(0).get<double>() >= 100);
            CHECK(fs::file_size(out) > 2000);
        }
    const CommandResult fits =
        cli(fmt::format("chart --squares 9x6 --page 'A4 portrait' --out '{}' --json", (folder / "fit.pdf").string()));
    CHECK(nlohmann::json::parse(fits.out).at("board_mm").at(2).get<double>() > 120);
    // Squares that do not fit become the largest that do, and that is said.
    const CommandResult large =
        cli(fmt::format("chart --kind checker --squares 15x10 --square-mm 30 --page A3 --out '{}' --json",
                        (folder / "x.pdf").string()));
    CHECK(large.status == 0);
    CHECK(nlohmann::json::parse(large.out).at("chart") == "checker:15x10:25");
    CHECK(large.err.find("do not fit") != std::string::npos);
    CHECK(cli(fmt::format("chart --squares 199x10 --page 60x60 --out '{}'", (folder / "y.pdf").string())).status == 1);
    CHECK(cli(fmt::format("chart --kind dots --out '{}'", (folder / "x.pdf").string())).status == 2);
    CHECK(cli("chart --page A9 --out x.pdf").status == 2);
}

TEST_CASE("the lens model can be overruled on the command line", "[cli]") {
    const TemporaryFolder folder;
    std::string frames;
    for (const fs::path& p : rig_frames("CH")) frames += " '" + p.string() + "'";
    const std::string out = (folder / "p.json").string();
    const CommandResult r = cli(fmt::format(
        "calibrate --chart checker:15x10:30 --frames {} --out '{}' --model equidistant --terms 3 --json", frames, out));
    INFO(r.err);
    REQUIRE(r.status == 0);
    const auto j = nlohmann::json::parse(r.out);
    CHECK(j.at("model") == "equidistant");
    CHECK(j.at("nodes").size() == 1);
    CHECK_FALSE(j.at("models_tried").empty());
    CHECK(r.err.find("glog") == std::string::npos);
    // Directions over the frame are there for every point, and the ideal picture as well.
    const CommandResult rays =
        cli(fmt::format("map --profile '{}' --size 2464x1640 --of frame --grid 5x5 --json", out));
    for (const auto& p : nlohmann::json::parse(rays.out).at("points")) CHECK(p.at("ray").size() == 3);
    CHECK(cli(fmt::format("calibrate --chart checker:15x10:30 --frames {} --out '{}' --model spherical", frames, out))
              .status == 1);
}
