// SPDX-License-Identifier: GPL-3.0-or-later
// Noise runs from files: sorting, findings, and what the command line prints.
#include "sensor/noise_run.h"

#include <fmt/format.h>

#include <catch2/catch.hpp>
#include <nlohmann/json.hpp>
#include <opencv2/imgproc.hpp>
#include <set>

#include "base/files.h"
#include "frames/dng_writer.h"
#include "sensor/simulated_sensor.h"
#include "support/support.h"

using namespace optrel;
using namespace optrel::test;
using nlohmann::json;

namespace {

/// Frames of one simulated body in a folder, taken one after the other.
class NoiseFolder {
public:
    explicit NoiseFolder(const SensorTruth& truth = {}, unsigned seed = 1) : sensor_(truth, seed) {
        shot_.maker = "Brimholt";
        shot_.model = "Brimholt B2";
        shot_.body_serial = "B2-0117";
        shot_.lens = "Lumenfold 35mm f/2.8";
        shot_.iso = 200;
    }
    fs::path take(double level) { return write(sensor_.shot(level)); }
    fs::path write(const RawPicture& raw) {
        shot_.time = fmt::format("2026:12:01 10:{:02}:{:02}", taken_ / 60, taken_ % 60);
        const fs::path path = folder_ / fmt::format("N{:04}.dng", ++taken_);
        write_dng(path, raw, shot_);
        return path;
    }
    void pairs(std::vector<fs::path>& to, const std::vector<double>& levels) {
        for (const double level : levels)
            for (int i = 0; i < 2; ++i) to.push_back(take(level));
    }
    Metadata& metadata() { return shot_; }
    SimulatedSensor& sensor() { return sensor_; }
    fs::path path(const char* name) const { return folder_ / name; }

private:
    TemporaryFolder folder_;
    SimulatedSensor sensor_;
    Metadata shot_;
    int taken_ = 0;
};

std::set<std::string> names_of(const NoiseMeasurement& m) {
    std::set<std::string> out;
    for (const NoiseFinding& f : m.findings) {
        INFO(f.text);
        CHECK(is_one_sentence(f.text));
        CHECK(f.remedy.ends_with("."));
        out.insert(f.name);
    }
    return out;
}

const std::vector<double> levels{0.03, 0.1, 0.3, 0.6};

}  // namespace

TEST_CASE("a noise run sorts frames into ISO settings and pairs, and finds the multiplied ISO", "[sensor]") {
    SensorTruth truth;
    truth.gain = 0.3;
    NoiseFolder folder(truth);
    std::vector<fs::path> flats, darks;
    folder.pairs(flats, levels);
    folder.pairs(darks, {0});
    // The same sensor with its counts doubled.
    truth.multiplied = 2;
    SimulatedSensor doubled(truth, 1);
    folder.metadata().iso = 400;
    for (const double level : levels)
        for (int i = 0; i < 2; ++i) flats.push_back(folder.write(doubled.shot(level)));
    // A dark frame among the flat fields counts as one.
    for (int i = 0; i < 2; ++i) flats.push_back(folder.write(doubled.shot(0)));
    std::reverse(flats.begin(), flats.end());
    Progress progress;
    const NoiseMeasurement m = measure_noise(flats, darks, progress);
    CHECK(names_of(m).empty());
    REQUIRE(m.isos.size() == 2);
    CHECK(m.isos[0].iso == 200);
    CHECK(m.isos[0].pairs == 4);
    CHECK(m.isos[0].dark_frames == 2);
    CHECK(m.isos[1].dark_frames == 2);
    CHECK(m.isos[0].value_step == 1);
    CHECK(m.isos[1].value_step == 2);
    CHECK(m.digital_above_iso == 200);
    CHECK(m.frames.size() == 20);
    CHECK(m.isos[1].colours[1].gain.value == Approx(0.15).epsilon(0.02));
    CHECK(m.isos[1].colours[1].read_noise.value == Approx(3).epsilon(0.05));
}

TEST_CASE("frames that do not belong into a noise run are left out with a reason", "[sensor]") {
    NoiseFolder folder;
    std::vector<fs::path> flats, darks;
    folder.pairs(flats, levels);
    folder.pairs(darks, {0});
    Progress progress;
    const NoiseMeasurement clean = measure_noise(flats, darks, progress);
    CHECK(names_of(clean).empty());
    const auto unchanged = [&](const NoiseMeasurement& m) {
        REQUIRE(m.isos.size() == 1);
        CHECK(m.isos[0].pairs == 4);
        CHECK(m.isos[0].colours[1].gain.value == clean.isos[0].colours[1].gain.value);
    };
    SECTION("a frame without a partner, and one of another exposure") {
        flats.insert(flats.begin(), folder.take(0.2));
        flats.push_back(folder.take(0.25));
        const NoiseMeasurement m = measure_noise(flats, darks, progress);
        unchanged(m);
        CHECK(names_of(m) == std::set<std::string>{"no_pair"});
    }
    SECTION("files that cannot be read, that are rendered, or that were named twice") {
        write_bytes(folder.path("cut.dng"), read_file(flats[0]).substr(0, 3000));
        write_bytes(folder.path("empty.dng"), "");
        flats.push_back(folder.path("cut.dng"));
        flats.push_back(folder.path("empty.dng"));
        flats.push_back(folder.path("missing.dng"));
        flats.push_back(flats[2]);
        const NoiseMeasurement m = measure_noise(flats, darks, progress);
        unchanged(m);
        CHECK(names_of(m) == std::set<std::string>{"twice", "unusable"});
    }
    SECTION("frames of a pair that were taken far apart, without an exposure time") {
        flats.clear();
        for (int i = 0; i < 2; ++i)
            for (const double level : levels) flats.push_back(folder.take(level));
        const NoiseMeasurement m = measure_noise(flats, darks, progress);
        CHECK(names_of(m).empty());
        CHECK(m.isos[0].pairs == 4);
    }
    SECTION("dark frames with a light leak") {
        darks.clear();
        RawPicture leak = folder.sensor().shot(0), second = folder.sensor().shot(0);
        for (RawPicture* frame : {&leak, &second})
            for (int y = 0; y < frame->counts.rows; ++y)
                for (int x = 0; x < frame->counts.cols; ++x)
                    frame->counts(y, x) = static_cast<std::uint16_t>(frame->counts(y, x) + 12 * x / frame->counts.cols);
        darks = {folder.write(leak), folder.write(second)};
        const NoiseMeasurement m = measure_noise(flats, darks, progress);
        CHECK(names_of(m) == std::set<std::string>{"light_leak", "no_darks"});
        CHECK(m.isos[0].dark_frames == 0);
        CHECK(m.isos[0].colours[1].dsnu.sigma == 0);
        CHECK(m.isos[0].colours[1].read_noise.sigma > clean.isos[0].colours[1].read_noise.sigma);
    }
    SECTION("pictures with edges") {
        RawPicture chart = folder.sensor().shot(0.4), second = folder.sensor().shot(0.4);
        for (RawPicture* frame : {&chart, &second})
            for (int y = 0; y < frame->counts.rows; ++y)
                for (int x = 0; x < frame->counts.cols; ++x)
                    if ((x / 23 + y / 23) % 2)
                        frame->counts(y, x) = static_cast<std::uint16_t>(512 + (frame->counts(y, x) - 512) / 8);
        flats.push_back(folder.write(chart));
        flats.push_back(folder.write(second));
        const NoiseMeasurement m = measure_noise(flats, darks, progress);
        unchanged(m);
        CHECK(names_of(m) == std::set<std::string>{"not_flat"});
    }
    SECTION("a light that flickers") {
        flats.push_back(folder.take(0.5));
        flats.push_back(folder.take(0.51));
        const NoiseMeasurement m = measure_noise(flats, darks, progress);
        CHECK(names_of(m) == std::set<std::string>{"flicker"});
        CHECK(m.isos[0].pairs == 5);
    }
    SECTION("another lens") {
        folder.metadata().lens = "Lumenfold 50mm f/2";
        folder.pairs(flats, {0.5});
        CHECK(names_of(measure_noise(flats, darks, progress)) == std::set<std::string>{"lens"});
    }
}

TEST_CASE("a noise run that tells nothing is refused in one sentence", "[sensor]") {
    NoiseFolder folder;
    std::vector<fs::path> flats, darks;
    Progress progress;
    const auto refusal = [&] { return sentence_of([&] { measure_noise(flats, darks, progress); }); };
    CHECK(is_one_sentence(refusal()));
    folder.pairs(darks, {0});
    SECTION("a single level of light") {
        folder.pairs(flats, {0.5, 0.5});
        CHECK(refusal().find("0.0 EV") != std::string::npos);
    }
    SECTION("frames of two bodies") {
        folder.pairs(flats, levels);
        folder.metadata().body_serial = "B2-0118";
        folder.pairs(flats, levels);
        CHECK(refusal().find("B2-0118") != std::string::npos);
    }
    SECTION("frames without an ISO") {
        folder.metadata().iso = 0;
        folder.pairs(flats, levels);
        CHECK(refusal().find("ISO") != std::string::npos);
    }
    SECTION("noise that was removed") {
        for (const double level : levels)
            for (int i = 0; i < 2; ++i) {
                RawPicture smooth = folder.sensor().shot(level);
                cv::GaussianBlur(smooth.counts, smooth.counts, {7, 7}, 1.2);
                flats.push_back(folder.write(smooth));
            }
        CHECK(refusal().find("levels") == std::string::npos);
        CHECK(refusal().find("filtered") != std::string::npos);
    }
    SECTION("the work is cancelled") {
        folder.pairs(flats, levels);
        progress.cancel();
        CHECK(error_of([&] { measure_noise(flats, darks, progress); }) == "cancelled");
    }
}

TEST_CASE("noise is measured by the command line, and written as JSON", "[sensor][cli]") {
    NoiseFolder folder;
    std::vector<fs::path> flats, darks;
    folder.pairs(flats, levels);
    folder.pairs(darks, {0});
    std::string command = "noise --json --out '" + folder.path("noise.json").string() + "' --frames";
    for (const fs::path& path : flats) command += " '" + path.string() + "'";
    command += " --darks";
    for (const fs::path& path : darks) command += " '" + path.string() + "'";
    const CommandResult r = cli(command);
    INFO(r.err);
    REQUIRE(r.status == 0);
    const json out = json::parse(r.out);
    CHECK(out == json::parse(read_file(folder.path("noise.json"))));
    for (const char* colour : {"red", "green", "blue"})
        for (const char* figure : {"a", "b", "gain_e_per_dn", "read_noise_e", "full_well_e", "prnu_percent"}) {
            INFO(colour << " " << figure);
            CHECK(out["iso"]["200"][colour][figure]["value"].get<double>() > 0);
            CHECK(out["iso"]["200"][colour][figure]["sigma"].get<double>() > 0);
        }
    const double white = 16383 - 512, gain = out["iso"]["200"]["green"]["gain_e_per_dn"]["value"];
    CHECK(out["iso"]["200"]["green"]["a"]["value"].get<double>() == Approx(1 / gain / white));
    CHECK(out["digital_above_iso"].is_null());
    CHECK(out["findings"].empty());
    // The file is there, which is told before anything is measured.
    const CommandResult again = cli(command.substr(0, command.find(" --frames")) + " --frames '/none/a.dng'");
    CHECK(again.status == 1);
    CHECK(again.err.find("noise.json") != std::string::npos);
    CHECK(cli(command).status == 1);
    const CommandResult table =
        cli(command.substr(0, command.find("--json")) + command.substr(command.find("--frames")));
    CHECK(table.out.find("read noise, e") != std::string::npos);
    CHECK(cli("noise").status == 2);
}
