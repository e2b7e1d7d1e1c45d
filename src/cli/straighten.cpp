// SPDX-License-Identifier: GPL-3.0-or-later
#include <fmt/format.h>

#include "base/error.h"
#include "base/files.h"
#include "commands.h"
#include "studio/frame_recipe.h"
#include "studio/straightening.h"

namespace optrel::cli {
namespace {

struct Options {
    std::string frame, store, profile, solve = "roll+pitch+yaw";
    bool use_store = false, json = false, anyway = false;
};

FrameRecipe recipe_of(const Options& o) {
    if (!o.profile.empty()) return recipe_from_profile(o.profile, o.frame, o.anyway);
    if (!o.use_store) return bare_recipe(o.frame);
    Store store = open_store(o.store, Access::read);
    return recipe_from_store(store, o.frame);
}

void run(const Options& o) {
    if (o.use_store && !o.profile.empty()) throw usage_error("Give --profile or --store, not both.");
    const TurnAngles angles = turn_angles(o.solve);
    require_regular(o.frame);
    const FrameRecipe r = recipe_of(o);
    const FrameLines lines = find_lines(o.frame, r.metadata, r.fields, r.profile, console_progress());
    const Straightened s = straighten(lines, angles);
    if (o.json) {
        print_json({{"frame", o.frame},
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
    fmt::print(
        "roll {:.3f}° ± {:.3f}, pitch {:.3f}° ± {:.3f}, yaw {:.3f}° ± {:.3f} (one sigma), by {} of {} lines; "
        "they stay {:.2f} px (RMS) from straight\n",
        s.turn.roll_deg, s.sigma.roll_deg, s.turn.pitch_deg, s.sigma.pitch_deg, s.turn.yaw_deg, s.sigma.yaw_deg,
        s.lines_used, lines.lines.size(), s.residual_px);
}

}  // namespace

void add_straighten(CLI::App& app) {
    auto* command = add_command(app, "straighten", "Find how a frame's camera was held, from lines of its scene",
                                "straighten --frame SP0005.dng --profile lens.json --solve roll+pitch --json");
    auto o = std::make_shared<Options>();
    command->add_option("--frame", o->frame, "The frame")->required();
    command->add_option("--profile", o->profile, "Undo the distortion by this profile");
    auto* store = command->add_option("--store", o->store, "Undo the distortion as this store says");
    command->add_option("--solve", o->solve,
                        "Angles to solve: roll, roll+pitch or roll+pitch+yaw (default); roll is clockwise seen from "
                        "behind the camera, pitch upwards, yaw to the right");
    command->add_flag("--anyway", o->anyway, "With --profile: also when the frame's focal length is not the profile's");
    command->add_flag("--json", o->json, "Print JSON");
    command->callback([o, store] {
        o->use_store = store->count() > 0;
        run(*o);
    });
}

}  // namespace optrel::cli
