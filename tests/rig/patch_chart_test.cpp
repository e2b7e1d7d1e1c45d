// SPDX-License-Identifier: GPL-3.0-or-later
// The patch chart of the simulated studio, measured by core, which knows the chart file and the frames alone.
#include "rig/patch_chart.h"

#include <algorithm>
#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>

#include "base/files.h"
#include "patches/colour_measurement.h"
#include "patches/colour_writer.h"
#include "patches/neutral_area.h"
#include "render/pixel_reading.h"
#include "rig/scenario.h"
#include "studio/development/prepare_frame.h"
#include "studio/development/proposing.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;

namespace {

/// The demo's colour frames at ISO 100 of these bodies.
std::string scenario_of(const std::vector<std::string>& bodies) {
    auto j = nlohmann::json::parse(read_file(fs::path(OPTREL_SOURCE) / "scenarios/colours.json"));
    nlohmann::json shots = nlohmann::json::array();
    for (const auto& s : j["shots"])
        if (s["iso"] == 100 && std::find(bodies.begin(), bodies.end(), s["body"]) != bodies.end()) shots.push_back(s);
    j["shots"] = shots;
    return j.dump();
}

ColourMeasurement measured(const fs::path& folder, const std::string& body) {
    ColourRun run;
    run.chart = patch_chart_from(rig::patch_chart_text(), "the chart");
    for (const auto& entry : fs::directory_iterator(folder / "colours" / body))
        (entry.path().stem().string().back() == '3' ? run.flats : run.frames).push_back(entry.path());
    Progress progress;
    return measure_colours(run, progress);
}

}  // namespace

TEST_CASE("core measures the colours that the rig's sensors have", "[rig][patches]") {
    const TemporaryFolder folder;
    Progress progress;
    rig::make_frames(scenario_of({"brimholt-a", "brimholt-b"}), folder.path(), progress);
    const auto j = nlohmann::json::parse(read_file(fs::path(OPTREL_SOURCE) / "scenarios/colours.json"));
    std::vector<double> sensitivity;
    for (const std::size_t at : {0u, 1u}) {
        const nlohmann::json& body = j["bodies"][at];
        rig::Sensitivity sensor;
        sensor.centre_nm = body["spectral"]["centre_nm"];
        sensor.width_nm = body["spectral"]["width_nm"];
        sensor.leak = body["spectral"]["leak"];
        sensor.gain_ev = body["spectral"].value("gain_ev", 0.0);
        const rig::Curve light = rig::light_named("daylight");
        const ColourMeasurement m = measured(folder.path(), body["id"]);
        REQUIRE(m.lights.size() == 1);
        const MeasuredLight& of = m.lights[0];
        CHECK(of.fitted.fit.mean < 1.5);
        int used = 0;
        // Red and blue over green of each patch are those of its spectrum, to half a percent.
        for (std::size_t i = 0; i < of.patches.size(); ++i) {
            const MeasuredPatch& p = of.patches[i];
            if (!p.used()) continue;
            ++used;
            const std::array<double, 3> truth = rig::response(sensor, light, rig::patch_surfaces()[i]);
            for (const std::size_t c : {0u, 2u}) {
                INFO(body["id"] << " patch " << i << " colour " << c);
                CHECK(p.raw[c] / p.raw[1] == Approx(truth[c] / truth[1]).epsilon(0.01));
            }
        }
        CHECK(used >= 44);
        const std::array<double, 3> white = rig::response_to_white(sensor, light);
        CHECK(of.fitted.fit.neutral[0] / of.fitted.fit.neutral[1] == Approx(white[0] / white[1]).epsilon(0.01));
        CHECK(of.fitted.fit.neutral[2] / of.fitted.fit.neutral[1] == Approx(white[2] / white[1]).epsilon(0.01));
        sensitivity.push_back(of.exposure_ev.value - std::log2(white[1]));
    }
    // The difference of both copies is that of their sensitivities.
    CHECK(sensitivity[0] == Approx(sensitivity[1]).margin(0.02));
}

TEST_CASE("an area that is grey gives its warmth and tint", "[rig][patches]") {
    const TemporaryFolder folder;
    Progress progress;
    rig::make_frames(scenario_of({"brimholt-a", "brimholt-b"}), folder.path(), progress);
    const fs::path own = folder / "colours/brimholt-a/CA0003.dng", copy = folder / "colours/brimholt-b/CB0003.dng";
    const cv::Rect middle(500, 300, 220, 200);
    // The first body is what it takes itself for, so its flat field is grey as recorded.
    const NeutralArea a = neutral_of_area(read_raw(own), middle);
    CHECK(std::abs(a.offsets.warmth.value) < 3 * a.offsets.warmth.sigma + 0.3);
    CHECK(std::abs(a.offsets.tint.value) < 3 * a.offsets.tint.sigma + 0.3);
    CHECK(a.offsets.warmth.sigma < 0.5);
    CHECK(a.missed < 0.001);
    const NeutralArea b = neutral_of_area(read_raw(copy), middle);
    CHECK(std::hypot(b.offsets.warmth.value, b.offsets.tint.value) > 1);
    const auto refused = [&](const cv::Rect& area, const RawPicture& raw) {
        CHECK(error_of([&] { neutral_of_area(raw, area); }) == "input");
    };
    RawPicture raw = read_raw(own);
    refused({0, 0, 20, 200}, raw);
    refused({-1, 0, 200, 200}, raw);
    refused({1200, 700, 200, 200}, raw);
    raw.counts(400, 600) = static_cast<ushort>(raw.white);
    refused(middle, raw);
    raw.counts.setTo(raw.black.at(0, 0));
    refused(middle, raw);
    raw.layout = SampleLayout::monochrome;
    refused(middle, raw);
}

TEST_CASE("what an area proposes makes it grey with the colours of a file as well", "[rig][patches]") {
    const TemporaryFolder folder;
    Progress progress;
    rig::make_frames(scenario_of({"brimholt-b"}), folder.path(), progress);
    const fs::path path = folder / "colours/brimholt-b/CB0003.dng";
    const cv::Rect middle(500, 300, 220, 200);
    FrameDevelopment development;
    development.metadata = read_metadata(path);
    development.fields = neutral_start();
    const auto proposed = [&] {
        FrameDevelopment taken = development;
        for (const auto& [field, value] : propose_neutral(path, development, middle, progress).values)
            taken.fields.fields[static_cast<int>(field)].value = value;
        return taken.fields;
    };
    const auto prepared = prepare_frame(path, development.metadata, {}, progress);
    const auto chroma = [&](const ResolvedFrame& fields) {
        const cv::Vec3d lab = read_pixels(*prepared, fields, std::nullopt, middle, progress).lab;
        return std::hypot(lab[1], lab[2]);
    };
    CHECK(chroma(development.fields) > 0.5);
    CHECK(chroma(proposed()) < 0.15);
    // Other matrices tell another temperature and tint for the same grey.
    FittedLight light;
    // Its rows sum to the white of D50.
    light.fit.form =
        ColourForm(ColourForm::Kind::matrix,
                   (Eigen::MatrixXd(3, 3) << 0.70, 0.35, -0.0858, 0.30, 0.90, -0.20, 0.02, -0.20, 1.0049).finished());
    light.fit.neutral = {0.47, 1, 0.61};
    light.kelvin = 5500;
    light.white = {0.3324, 0.3474};
    development.fields.colour_file = std::make_shared<const ColourProfile>(
        colour_profile_from(dng_profile_of({light}, {"other", "", "free"}), "the colour file"));
    development.fields.fields[static_cast<int>(Field::colour_source)].value = value_of_colour_file("other", "00");
    INFO(propose_neutral(path, development, middle, progress).text);
    CHECK(chroma(proposed()) < 0.15);
}

TEST_CASE("the chart of the simulated studio is written as text and as a page", "[rig][patches][cli]") {
    const PatchChart chart = patch_chart_from(rig::patch_chart_text(), "the chart");
    CHECK(chart.columns == 8);
    CHECK(chart.patches.size() == 48);
    const std::string page = rig::patch_chart_pdf();
    CHECK(page.rfind("%PDF-1.4", 0) == 0);
    CHECK(page.find("%%EOF") != std::string::npos);
    const TemporaryFolder folder;
    const fs::path out = folder / "chart.txt";
    CHECK(cli("rig patch-chart --out '" + out.string() + "'").status == 0);
    CHECK(read_file(out) == rig::patch_chart_text());
    CHECK(cli("rig patch-chart --out '" + out.string() + "'").status == 2);
    CHECK(cli("rig patch-chart --out '" + (folder / "chart.jpg").string() + "'").status == 2);
    CHECK_THROWS_AS(rig::light_named("candle"), Error);
    // A link that leads nowhere stays.
    fs::create_symlink(folder / "nowhere.txt", folder / "link.txt");
    CHECK(cli("rig patch-chart --out '" + (folder / "link.txt").string() + "'").status == 2);
    CHECK(fs::is_symlink(folder / "link.txt"));
}

TEST_CASE("an area is told by the command line, and a mistyped one is refused", "[rig][patches][cli]") {
    const TemporaryFolder folder;
    Progress progress;
    rig::make_frames(scenario_of({"brimholt-b"}), folder.path(), progress);
    const std::string command =
        "colour neutral --frames '" + (folder / "colours/brimholt-b/CB0003.dng").string() + "' --json --area ";
    const CommandResult told = cli(command + "500,300,220,200");
    REQUIRE(told.status == 0);
    const auto j = nlohmann::json::parse(told.out);
    CHECK(std::abs(j["frames"][0]["warmth_offset"]["value"].get<double>()) > 1);
    CHECK(j["frames"][0]["warmth_offset"]["sigma"].get<double>() < 0.5);
    for (const char* wrong : {"500,300,220", "500,300,220,200,1", "500,300,220,2o0", "500;300;220;200", "-5,0,220,200",
                              "5.5,0,220,200", ",,,", ""})
        CHECK(cli(command + "'" + wrong + "'").status == 2);
    CHECK(cli(command + "1200,300,220,200").status == 1);
}
