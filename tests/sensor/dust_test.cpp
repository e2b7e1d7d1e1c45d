// SPDX-License-Identifier: GPL-3.0-or-later
// Dust, against the rig's truth.
#include "sensor/dust.h"

#include <fmt/format.h>

#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include "base/files.h"
#include "frames/dng_writer.h"
#include "rig/camera.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;
using nlohmann::json;

namespace {

rig::Body dusty_body(std::uint64_t copy, int specks) {
    rig::Body body;
    body.width = 1500;
    body.height = 1000;
    body.maker = "Brimholt";
    body.model = "Brimholt B2";
    body.xyz_to_camera = cv::Matx33d::eye();
    body.sensor.seed = copy;
    body.sensor.prnu = 0.008;
    body.sensor.hot_per_million = 60;
    body.sensor.dust_specks = specks;
    return body;
}

/// Flat fields with falloff and an uneven lamp.
std::vector<fs::path> flats_of(const rig::Body& body, const TemporaryFolder& folder, int count, double level = 0.6) {
    rig::Lens lens;
    lens.focal_mm = 35;
    lens.cosine_power = 4;
    std::vector<fs::path> out;
    for (int i = 0; i < count; ++i) {
        rig::Exposure exposure;
        exposure.level = level;
        exposure.lamp_gradient = {0.05, -0.03};
        exposure.seed = 100 * body.sensor.seed + i;
        Metadata m;
        m.maker = body.maker;
        m.model = body.model;
        out.push_back(folder / fmt::format("F{}-{}.dng", body.sensor.seed, i));
        write_dng(out.back(), rig::photograph_flat(body, lens, exposure, Progress()), m, Existing::replace_ours);
    }
    return out;
}

}  // namespace

TEST_CASE("dust is found where it lies, with its size and depth, and nothing else", "[sensor][dust]") {
    const TemporaryFolder folder;
    int wanted = 0, found = 0, wrong = 0;
    double depth_error = 0, radius_error = 0;
    for (const std::uint64_t copy : {1, 2, 3, 4, 5, 6}) {
        const rig::Body body = dusty_body(copy, 6);
        Progress progress;
        const DustFound dust = find_dust(flats_of(body, folder, 2), progress);
        CHECK(dust.problems.empty());
        CHECK(dust.width == 1500);
        const std::vector<rig::DustSpeck> truth = rig::dust_specks(body.sensor, body.width, body.height);
        wanted += static_cast<int>(truth.size());
        std::vector<bool> matched(dust.spots.size());
        for (const rig::DustSpeck& speck : truth)
            for (std::size_t i = 0; i < dust.spots.size(); ++i) {
                const DustSpot& spot = dust.spots[i];
                if (std::hypot(spot.place.x() - speck.place[0], spot.place.y() - speck.place[1]) > speck.radius)
                    continue;
                if (matched[i]) continue;
                matched[i] = true;
                ++found;
                depth_error = std::max(depth_error, std::abs(spot.depth_percent / (100 * speck.depth) - 1));
                radius_error = std::max(radius_error, std::abs(spot.radius_px / speck.radius - 1));
                break;
            }
        wrong += static_cast<int>(std::count(matched.begin(), matched.end(), false));
    }
    CHECK(found >= wanted - 1);  // two may overlap
    CHECK(wrong <= 1);
    CHECK(depth_error < 0.2);
    CHECK(radius_error < 0.2);
}

TEST_CASE("a clean sensor shows no dust", "[sensor][dust]") {
    const TemporaryFolder folder;
    for (const std::uint64_t copy : {11, 12}) {
        Progress progress;
        CHECK(find_dust(flats_of(dusty_body(copy, 0), folder, 1), progress).spots.empty());
    }
}

TEST_CASE("dust is told by the command line, and frames that cannot show it are refused", "[sensor][dust][cli]") {
    const TemporaryFolder folder;
    const std::vector<fs::path> flats = flats_of(dusty_body(1, 6), folder, 1),
                                dark = flats_of(dusty_body(21, 0), folder, 1, 0.001);
    const CommandResult good = cli("dust --json --frames '" + flats[0].string() + "'");
    CHECK(good.status == 0);
    const json j = json::parse(good.out);
    CHECK(j["spots"].size() >= 5);
    CHECK_FALSE(j["clean"].get<bool>());
    CHECK(j["spots"][0]["depth_percent"]["sigma"].get<double>() > 0);
    CHECK(json::parse(cli("dust --json --limit-percent 90 --frames '" + flats[0].string() + "'").out)["clean"]);
    const CommandResult refused = cli("dust --frames '" + dark[0].string() + "'");
    CHECK(refused.status == 1);
    CHECK(refused.err.find("too dark") != std::string::npos);
    for (const char* bad : {"nan", "0", "-1", "2,5", "much"})
        CHECK(cli("dust --limit-percent " + std::string(bad) + " --frames '" + flats[0].string() + "'").status == 2);
    const CommandResult chart = cli("dust --frames '" + rig_frame("CH0001").string() + "'");
    CHECK(chart.status == 1);
    CHECK(chart.err.find("more than an even surface") != std::string::npos);
    write_bytes(folder / "cut.dng", read_file(flats[0]).substr(0, 3000));
    const CommandResult mixed =
        cli("dust --json --frames '" + flats[0].string() + "' '" + (folder / "cut.dng").string() + "'");
    CHECK(mixed.status == 1);
    CHECK(json::parse(mixed.out)["spots"].size() == j["spots"].size());
}
