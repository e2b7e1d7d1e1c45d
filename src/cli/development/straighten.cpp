// SPDX-License-Identifier: GPL-3.0-or-later
#include <fmt/format.h>

#include "base/figure_text.h"
#include "cli/development/development_options.h"
#include "studio/development/straightening.h"

namespace optrel::cli {
namespace {

struct StraightenOptions {
    DevelopmentOptions development;
    std::string solve = "roll+pitch+yaw";
    bool json = false;
};

void run(const StraightenOptions& o) {
    const TurnAngles angles = turn_angles(o.solve);
    const FrameDevelopment r = development_of(o.development);
    const FrameLines lines = find_lines(o.development.frame, r.metadata, r.fields, r.profile, console_progress());
    const Straightened s = straighten(lines, angles);
    if (o.json) {
        print_json({{"frame", o.development.frame},
                    {"profile", r.chosen},
                    {"roll_deg", s.turn.roll_deg},
                    {"pitch_deg", s.turn.pitch_deg},
                    {"yaw_deg", s.turn.yaw_deg},
                    {"sigma_deg", {s.sigma.roll_deg, s.sigma.pitch_deg, s.sigma.yaw_deg}},
                    {"lines_found", lines.lines.size()},
                    {"lines_used", s.lines_used},
                    {"residual_px", s.residual_px}});
        return;
    }
    fmt::print("roll {}, pitch {}, yaw {} (one sigma), by {} of {} lines; they stay {} (RMS) from straight\n",
               figure_text(figures::angle, s.turn.roll_deg, s.sigma.roll_deg),
               figure_text(figures::angle, s.turn.pitch_deg, s.sigma.pitch_deg),
               figure_text(figures::angle, s.turn.yaw_deg, s.sigma.yaw_deg), s.lines_used, lines.lines.size(),
               figure_text(figures::shift, s.residual_px));
}

}  // namespace

void add_straighten(CLI::App& app) {
    auto* command = add_command(app, "straighten", "Find how a frame's camera was held, from lines of its scene",
                                "straighten --frame SP0005.dng --profile lens.json --solve roll+pitch --json");
    auto o = std::make_shared<StraightenOptions>();
    add_development_options(*command, o->development);
    command->add_option("--solve", o->solve,
                        "Angles to solve: roll, roll+pitch or roll+pitch+yaw (default); roll is clockwise seen from "
                        "behind the camera, pitch upwards, yaw to the right");
    command->add_flag("--json", o->json, "Print JSON");
    command->callback([o] { run(*o); });
}

}  // namespace optrel::cli
