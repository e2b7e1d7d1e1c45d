// SPDX-License-Identifier: GPL-3.0-or-later
#include "rig/scenario.h"

#include <fmt/format.h>

#include "base/error.h"
#include "base/files.h"
#include "commands.h"
#include "rig/film.h"

namespace optrel::cli {

void add_rig(CLI::App& app) {
    struct RigOptions {
        std::string scenario = "demo", out, film, size = "1920x1080";
        int pictures = 100;
        double area_mm = 23.1616;
    };
    auto* command =
        add_command(app, "rig", "Make simulated frames with a known truth", "rig --scenario demo --out frames");
    auto o = std::make_shared<RigOptions>();
    command->add_option("--scenario", o->scenario, "demo, or a scenario file (JSON)")->capture_default_str();
    auto* out = command->add_option("--out", o->out, "Folder for the frames");
    command->add_option("--film", o->film, "In place of frames, a film by the scenario's lens (.mkv)")->excludes(out);
    command->add_option("--size", o->size, "Of the film")->capture_default_str();
    command->add_option("--pictures", o->pictures, "Of the film, 25 a second")
        ->check(between(1, 100000))
        ->capture_default_str();
    command->add_option("--area", o->area_mm, "Of the film: width of the sensor that it shows, mm")
        ->check(between(1, 100))
        ->capture_default_str();
    command->callback([o] {
        const std::string text = o->scenario == "demo" ? rig::demo_scenario() : read_file(o->scenario);
        if (!o->film.empty()) {
            const auto [width, height] = whole_pair(o->size, "pixels of the size", 32, 16384);
            return rig::make_film(rig::scenario_lens(text), {cv::Size(width, height), o->pictures, o->area_mm}, o->film,
                                  Existing::replace_ours, console_progress());
        }
        if (o->out.empty()) throw usage_error("Name a folder for frames with --out, or a film with --film.");
        rig::make_frames(text, o->out, console_progress());
        fmt::print(stderr, "Frames are in {}\n", o->out);
    });
}

}  // namespace optrel::cli
