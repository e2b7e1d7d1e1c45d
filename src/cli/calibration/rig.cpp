// SPDX-License-Identifier: GPL-3.0-or-later
#include "rig/scenario.h"

#include <fmt/format.h>

#include "base/error.h"
#include "base/files.h"
#include "cli/commands.h"
#include "rig/film.h"
#include "rig/patch_chart.h"
#include "rig/scenario_form.h"

namespace optrel::cli {

namespace {

std::string scenario_text(const std::string& name) { return name == "demo" ? rig::demo_scenario() : read_file(name); }

void add_shoot(CLI::App& rig, const std::string& scenario) {
    struct ShootOptions {
        std::string camera, body = "brimholt-a";
        int times = 1;
        bool json = false;
    };
    auto o = std::make_shared<ShootOptions>();
    auto* command = add_command(rig, "shoot", "Press the shutter of a simulated camera, a folder that stands for it",
                                "rig shoot --camera demo-data/camera");
    command->add_option("--camera", o->camera, "The folder that stands for the camera")->required();
    command->add_option("--body", o->body, "Id of a body of the scenario")->capture_default_str();
    command->add_option("--times", o->times, "How often")->check(between(1, 1000))->capture_default_str();
    command->add_flag("--json", o->json, "Print JSON");
    command->callback([o, &rig, &scenario] {
        for (const char* other : {"--out", "--film"})
            if (rig.get_option(other)->count() > 0)
                throw usage_error(fmt::format("{} is for frames of the scenario; leave it out beside shoot.", other));
        nlohmann::json files = nlohmann::json::array();
        for (int i = 0; i < o->times; ++i) {
            const auto file = rig::shoot(scenario_text(scenario), o->body, o->camera, console_progress());
            files.push_back(file.string());
            if (!o->json) fmt::print("{}\n", file.string());
        }
        if (o->json) print_json({{"files", files}});
    });
}

void add_patch_chart(CLI::App& rig) {
    auto out = std::make_shared<std::string>();
    auto* command = add_command(rig, "patch-chart",
                                "Write the patch chart of the simulated studio: its reference (.txt) or a page to look "
                                "at (.pdf)",
                                "rig patch-chart --out patch-chart.txt");
    command->add_option("--out", *out, "New file: .txt for the reference, .pdf for the page")->required();
    command->callback([out] {
        const std::string extension = lowered_extension(*out);
        if (extension != ".txt" && extension != ".pdf")
            throw usage_error(
                "The chart is written as .txt (its reference) or .pdf (a page to look at); name such a "
                "file.");
        // A link that leads nowhere is not replaced either.
        if (std::error_code none; std::filesystem::exists(std::filesystem::symlink_status(*out, none)))
            throw usage_error(fmt::format("{} exists; name another file.", *out));
        write_atomic(*out, extension == ".txt" ? rig::patch_chart_text() : rig::patch_chart_pdf());
        fmt::print(stderr, "The chart is in {}\n", *out);
    });
}

}  // namespace

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
    add_shoot(*command, o->scenario);
    add_patch_chart(*command);
    add_command(*command, "schema", "Print what a scenario file may hold, as a JSON schema", "rig schema")
        ->callback([] { fmt::print("{}\n", rig::scenario_schema().dump(2)); });
    command->callback([o, command] {
        if (!command->get_subcommands().empty()) return;
        const std::string text = scenario_text(o->scenario);
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
