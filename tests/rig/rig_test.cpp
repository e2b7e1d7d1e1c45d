// SPDX-License-Identifier: GPL-3.0-or-later
#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>
#include <set>
#include "frames/metadata.h"
#include "rig/scene.h"

#include "base/files.h"
#include "rig/camera.h"
#include "rig/random.h"
#include "rig/scenario.h"
#include "rig/scenario_form.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

/// The demo scenario with small bodies and few shots, quick to make.
std::string small_scenario() {
    auto j = nlohmann::json::parse(rig::demo_scenario());
    nlohmann::json shots = nlohmann::json::array();
    for (const auto& s : j["shots"])
        if (s["name"] == "CH0001" || s["name"] == "FF0001" || s["name"] == "SP0007") shots.push_back(s);
    j["shots"] = shots;
    for (auto& b : j["bodies"]) {
        b["width"] = 240;
        b["height"] = 160;
        b["pitch_um"] = 96;
    }
    return j.dump();
}

}  // namespace

TEST_CASE("same seed, same bytes", "[rig]") {
    const TemporaryFolder a, b;
    Progress progress;
    rig::make_frames(small_scenario(), a.path(), progress);
    rig::make_frames(small_scenario(), b.path(), progress);
    for (const char* name :
         {"calibration/CH0001.dng", "calibration/FF0001.dng", "specimens/SP0007.dng", "truth/lens-on-tarnwick-a.json"})
        CHECK(read_file(a / name) == read_file(b / name));
}

TEST_CASE("frames that are there are kept, changed deliveries are made again", "[rig]") {
    const TemporaryFolder folder;
    Progress progress;
    rig::make_frames(small_scenario(), folder.path(), progress);
    const auto time = fs::last_write_time(folder / "calibration/CH0001.dng");
    rig::make_frames(small_scenario(), folder.path(), progress);
    CHECK(fs::last_write_time(folder / "calibration/CH0001.dng") == time);
    auto j = nlohmann::json::parse(small_scenario());
    j["shots"][0]["iso"] = 400;
    rig::make_frames(j.dump(), folder.path(), progress);
    CHECK(read_metadata(folder / "calibration/CH0001.dng").iso == 400);
}

TEST_CASE("the demo studio is as it should be", "[rig]") {
    CHECK(rig_frames("CH").size() == 13);
    CHECK(rig_frames("FF").size() == 4);
    CHECK(rig_frames("SP").size() == 8);
    std::set<std::string> bodies, models;
    std::set<int> isos;
    for (const fs::path& p : rig_frames("SP")) {
        const Metadata m = read_metadata(p);
        bodies.insert(m.body_serial);
        models.insert(m.model);
        isos.insert(m.iso);
    }
    CHECK(bodies.size() == 3);
    CHECK(models.size() == 2);
    CHECK(isos == std::set<int>{100, 800, 3200});
}

TEST_CASE("the lens finds what it looks at", "[rig]") {
    rig::Lens lens;
    lens.focal_mm = 35;
    lens.centre_mm = {0.1, -0.05};
    lens.division = {-0.03, 0.005, 0};
    lens.tilt = {0.001, -0.001};
    lens.stretch[0] = {2e-4, 5e-4};
    lens.shift_mm[2] = {0.001, 0};
    for (int c = 0; c < 3; ++c)
        for (const cv::Vec2d& s : {cv::Vec2d(0, 0), cv::Vec2d(8, -3), cv::Vec2d(-11, 7)}) {
            const cv::Vec3d ray = lens.look(c, s);
            const cv::Vec2d back = lens.find(c, {ray[0] / ray[2], ray[1] / ray[2]});
            CHECK(cv::norm(back - s) < 1e-9);
        }
    CHECK(lens.light(1, {0, 0}) == Approx(1));
    CHECK(lens.light(1, {10, 5}) < 1);
}

TEST_CASE("noise has the variance of light and read-out", "[rig]") {
    rig::Body body;
    body.width = 600;
    body.height = 400;
    body.xyz_to_camera = cv::Matx33d::eye();
    body.neutral = {1, 1, 1};
    rig::Lens lens;
    lens.cosine_power = 0;
    rig::Exposure exposure;
    exposure.iso = 400;
    exposure.level = 0.5;
    const RawPicture raw = rig::photograph_flat(body, lens, exposure, Progress());
    cv::Scalar mean, sigma;
    cv::meanStdDev(raw.counts, mean, sigma);
    const double electrons = body.full_well / 4, per_electron = (body.white - body.black) / electrons;
    CHECK((mean[0] - body.black) / per_electron == Approx(0.5 * electrons).epsilon(0.002));
    CHECK(sigma[0] / per_electron ==
          Approx(std::sqrt(0.5 * electrons + body.read_noise * body.read_noise)).epsilon(0.02));
}

TEST_CASE("random numbers are normal and uniform", "[rig]") {
    double sum = 0, squares = 0, uniform = 0;
    const int n = 200000;
    for (int i = 0; i < n; ++i) {
        const double x = rig::normal(rig::mix(i));
        sum += x / n;
        squares += x * x / n;
        uniform += rig::uniform(rig::mix(i + 7)) / n;
    }
    CHECK(sum == Approx(0).margin(0.01));
    CHECK(squares == Approx(1).epsilon(0.02));
    CHECK(uniform == Approx(0.5).epsilon(0.01));
}

TEST_CASE("scenarios that cannot be read are refused in one sentence", "[rig]") {
    const TemporaryFolder folder;
    Progress progress;
    for (const char* bad : {"", "{", "{}", "[1]", R"({"lens":{},"bodies":[],"shots":[]})"})
        CHECK(error_of([&] { rig::make_frames(bad, folder.path(), progress); }) == "input");
    // Each slip is named with its place, and nothing is made.
    const auto sentence = [&](const std::function<void(nlohmann::json&)>& spoil) {
        nlohmann::json j = nlohmann::json::parse(small_scenario());
        spoil(j);
        const std::string s = sentence_of([&] { rig::make_frames(j.dump(), folder.path(), progress); });
        INFO(s);
        CHECK(is_one_sentence(s));
        return s;
    };
    using nlohmann::json;
    const auto has = [](const std::string& s, const char* what) { return s.find(what) != std::string::npos; };
    CHECK(has(sentence([](json& j) { j["shots"][0]["blur"] = 1; }), "nearest"));
    CHECK(has(sentence([](json& j) { j["shots"][0].erase("iso"); }), "shots[0] (CH0001) has no 'iso'"));
    CHECK(has(sentence([](json& j) { j["bodies"][0]["width"] = -5; }), "bodies[0] (brimholt-a).width"));
    CHECK(has(sentence([](json& j) { j["bodies"][0]["width"] = 2e9; }), "from 64 to 20000"));
    CHECK(has(sentence([](json& j) { j["bodies"][0]["filter"] = "RGGG"; }), "BGGR, 6x6 or none"));
    CHECK(has(sentence([](json& j) { j["lens"]["division"] = {1, 2}; }), "a list of 3 numbers"));
    CHECK(has(sentence([](json& j) { j["shots"][0]["body"] = "brimhold-a"; }), "brimholt-a"));
    CHECK(has(sentence([](json& j) { j["shots"][0]["kind"] = "charts"; }), "chart, flat, specimen or patches"));
    CHECK(has(sentence([](json& j) { j["shots"][0]["folder"] = "../x"; }), "leads out"));
    CHECK(has(sentence([](json& j) { j["shots"][0]["name"] = "a/b"; }), "slash"));
    CHECK(has(sentence([](json& j) { j.erase("chart"); }), "needs a chart"));
    CHECK(has(sentence([](json& j) { j["lens"]["focal_mm"] = "35"; }), "lens.focal_mm is to be a number"));
    CHECK_FALSE(fs::exists(folder / "truth"));
    progress.cancel();
    CHECK_THROWS_AS(rig::make_frames(small_scenario(), folder.path(), progress), Cancelled);
}

TEST_CASE("what a scenario may hold is documented, and every shipped one keeps to it", "[rig]") {
    const fs::path docs = fs::path(OPTREL_SOURCE) / "docs" / "scenario.schema.json";
    CHECK(nlohmann::ordered_json::parse(read_file(docs)) == rig::scenario_schema());
    for (const auto& entry : fs::directory_iterator(fs::path(OPTREL_SOURCE) / "scenarios")) {
        INFO(entry.path().string());
        CHECK_NOTHROW(rig::check_scenario(nlohmann::json::parse(read_file(entry.path()))));
    }
}

TEST_CASE("fisheyes look where their projection says", "[rig]") {
    rig::Lens lens;
    lens.focal_mm = 10;
    for (const auto& [projection, radius] : {std::pair(rig::Projection::equisolid, 2 * 10 * std::sin(0.5)),
                                             std::pair(rig::Projection::stereographic, 2 * 10 * std::tan(0.5))}) {
        lens.projection = projection;
        const cv::Vec3d ray = cv::normalize(lens.look(1, {radius, 0}));
        CHECK(std::acos(ray[2]) == Approx(1.0).epsilon(1e-9));
        const cv::Vec2d back = lens.find(1, {ray[0] / ray[2], ray[1] / ray[2]});
        CHECK(back[0] == Approx(radius).epsilon(1e-9));
    }
}

TEST_CASE("boards bow, stretch, shine and carry markers", "[rig]") {
    rig::Board board;
    board.bow_mm = 2;
    const rig::BoardScene bowed(board);
    CHECK(bowed.height(0, 0) == 0);
    CHECK(bowed.height(50, 150) == Approx(2));
    CHECK(bowed.height(50, -150) == Approx(2));
    board = {};
    board.stretch_y = 0.01;
    const rig::BoardScene stretched(board);
    // One percent of 150 mm: what was the outer edge is still white margin and black square above.
    CHECK(stretched.at(-220, -151).label != stretched.at(-220, -152).label);
    board = {};
    board.glare_mm = {0, 0, 50};
    CHECK(rig::BoardScene(board).at(5, 5).reflectance[1] > 0.8f);
    board = {};
    board.coded = true;
    const rig::BoardScene coded(board);
    int tones = 0;
    for (double x = -192; x < -168; x += 0.5) tones += coded.at(x, -135).reflectance[1] < 0.2f;
    CHECK(tones > 5);
    board.coded = false;
    for (double x = -192; x < -168; x += 0.5) CHECK(rig::BoardScene(board).at(x, -135).reflectance[1] > 0.5f);
}

TEST_CASE("a scenario with a zoom writes its settings into the frames", "[rig]") {
    const TemporaryFolder folder;
    nlohmann::json scenario =
        nlohmann::json::parse(read_file(fs::path(OPTREL_SOURCE) / "scenarios" / "more-lenses.json"));
    nlohmann::json few = nlohmann::json::array();
    std::set<double> seen;
    for (const auto& shot : scenario["shots"])
        if (shot["kind"] == "flat" && seen.insert(shot["lens"]["focal_mm"].get<double>()).second) few.push_back(shot);
    scenario["shots"] = few;
    Progress progress;
    rig::make_frames(scenario.dump(), folder.path(), progress);
    std::set<double> focal;
    std::set<std::string> serials;
    for (const auto& shot : few) {
        const Metadata m = read_metadata(folder.path() / shot["folder"].get<std::string>() /
                                         (shot["name"].get<std::string>() + ".dng"));
        focal.insert(m.focal_mm);
        serials.insert(m.lens_serial);
    }
    CHECK(focal.size() == 4);
    CHECK(serials.size() == 2);
    CHECK(fs::exists(folder.path() / "truth" / "lens-zoom-24-on-quenby-a.json"));
}
