// SPDX-License-Identifier: GPL-3.0-or-later
#include "rig/scenario.h"

#include <fmt/format.h>

#include "base/files.h"
#include "commands.h"

namespace optrel::cli {

void add_rig(CLI::App& app) {
    struct RigOptions {
        std::string scenario = "demo", out;
    };
    auto* command =
        add_command(app, "rig", "Make simulated frames with a known truth", "rig --scenario demo --out frames");
    auto o = std::make_shared<RigOptions>();
    command->add_option("--scenario", o->scenario, "demo, or a scenario file (JSON)")->capture_default_str();
    command->add_option("--out", o->out, "Folder for the frames")->required();
    command->callback([o] {
        const std::string text = o->scenario == "demo" ? rig::demo_scenario() : read_file(o->scenario);
        rig::make_frames(text, o->out, console_progress());
        fmt::print(stderr, "Frames are in {}\n", o->out);
    });
}

}  // namespace optrel::cli
