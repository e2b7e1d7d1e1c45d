// SPDX-License-Identifier: GPL-3.0-or-later
// Exports of a raw frame of 24 megapixels: to a 16-bit TIFF, corrected, and as a raw copy, beside the raw library's own
// develop of the same file to a 16-bit TIFF, which does less; in turns, in the same run. And the most memory it took.
//
//   optrel-bench-export [ROUNDS]
#include <fmt/format.h>
#include <libraw/libraw.h>
#include <sys/resource.h>

#include <algorithm>
#include <chrono>
#include <filesystem>
#include <nlohmann/json.hpp>

#include "rig/scenario.h"
#include "sample_lens.h"
#include "studio/exports/exporting.h"

namespace {

using namespace optrel;
using nlohmann::json;
namespace fs = std::filesystem;

fs::path make_frame(const fs::path& folder) {
    json scenario = json::parse(rig::demo_scenario());
    json shots = json::array();
    for (json shot : scenario["shots"]) {
        if (shot["folder"] != "specimens" || !shots.empty()) continue;
        shot["body"] = "brimholt-a";
        shots.push_back(shot);
    }
    for (json& body : scenario["bodies"])
        if (body["id"] == "brimholt-a") body.update({{"width", 6000}, {"height", 4000}, {"pitch_um", 3.86}});
    scenario["shots"] = shots;
    Progress progress;
    rig::make_frames(scenario.dump(), folder, progress);
    return folder / "specimens" / (shots[0]["name"].get<std::string>() + ".dng");
}

double seconds(const std::function<void()>& work) {
    const auto from = std::chrono::steady_clock::now();
    work();
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - from).count();
}

double peak_mb() {
    rusage usage{};
    getrusage(RUSAGE_SELF, &usage);
    return static_cast<double>(usage.ru_maxrss) / 1024;
}

void raw_library(const fs::path& frame, const fs::path& out) {
    LibRaw raw;
    raw.imgdata.params.output_bps = 16;
    raw.imgdata.params.output_tiff = 1;
    raw.imgdata.params.use_camera_wb = 1;
    raw.open_file(frame.c_str());
    raw.unpack();
    raw.dcraw_process();
    raw.dcraw_ppm_tiff_writer(out.c_str());
}

double median(std::vector<double> values) {
    std::sort(values.begin(), values.end());
    return values[values.size() / 2];
}

}  // namespace

int main(int argc, char** argv) {
    const int rounds = argc > 1 ? std::max(1, std::atoi(argv[1])) : 5;
    const fs::path folder = fs::temp_directory_path() / "optrel-bench-export";
    fs::create_directories(folder);
    const fs::path frame = make_frame(folder);
    FrameDevelopment facts = bare_development(frame);
    facts.profile = AppliedProfile{bench::sample_node(), bench::geometry_24mp()};
    struct Work {
        const char* name;
        std::function<void()> run;
        std::vector<double> times;
    };
    const auto exporting = [&](const Delivery& delivery, const char* name) {
        export_frame(frame, facts, delivery, folder / name, Existing::replace_ours, Progress());
    };
    Delivery packed = plain_delivery(ExportFormat::tiff);
    packed.compressed = true;
    std::vector<Work> works{
        {"TIFF, 16 bits, corrected", [&] { exporting(plain_delivery(ExportFormat::tiff), "a.tif"); }, {}},
        {"the same, deflate", [&] { exporting(packed, "b.tif"); }, {}},
        {"JPEG, corrected", [&] { exporting(plain_delivery(ExportFormat::jpeg), "c.jpg"); }, {}},
        {"raw copy, lossless", [&] { exporting(plain_delivery(ExportFormat::dng), "d.dng"); }, {}},
        {"the raw library's develop to TIFF", [&] { raw_library(frame, folder / "e.tif"); }, {}}};
    works[0].run();
    const double memory = peak_mb();
    for (int i = 0; i < rounds; ++i)
        for (Work& w : works) w.times.push_back(seconds(w.run));
    const double reference = median(works.back().times);
    for (const Work& w : works)
        fmt::print("{:36} {:6.2f} s   {:.2f} of the raw library's\n", w.name, median(w.times),
                   median(w.times) / reference);
    fmt::print("most memory of the first export: {:.0f} MB\n", memory);
    fs::remove_all(folder);
}
