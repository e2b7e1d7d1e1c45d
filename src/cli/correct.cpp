// SPDX-License-Identifier: GPL-3.0-or-later
#include <fmt/format.h>

#include "base/error.h"
#include "base/files.h"
#include "commands.h"
#include "frames/tiff_writer.h"
#include "studio/develop_frame.h"
#include "studio/knowledge.h"
#include "studio/profile_file.h"

namespace optrel::cli {
namespace {

struct Options {
    std::string profile, store, frame, out;
    bool fill = false, keep = false, json = false, use_store = false, overwrite = false, anyway = false;
    double scale = 0;
};

/// What a frame is developed with.
struct Recipe {
    Metadata metadata;
    ResolvedFrame fields = neutral_start();
    std::optional<AppliedProfile> profile;
    std::string chosen = "none";
};

Recipe from_store(const Options& o) {
    Recipe r;
    Store store = open_store(o.store, Access::read);
    const Sheet sheet = read_sheet(o.frame);
    const FrameKnowledge known =
        know(std::filesystem::absolute(o.frame).lexically_normal(), read_metadata(o.frame), *store.registry().fleet());
    r.metadata = known.metadata;
    r.fields = fields_of(sheet, known.facts, Resolver(store.baselines().current()));
    const std::vector<Profile> profiles = store.profiles().newest();
    const ProfileMatch match = profile_of(sheet, r.fields, r.metadata, profiles);
    r.profile = applied(match, r.metadata);
    if (r.profile)
        r.chosen =
            fmt::format("{} version {} ({})", match.profile->name, match.profile->version, to_string(match.grade));
    return r;
}

Recipe from_profile(const Options& o) {
    Recipe r;
    r.metadata = read_metadata(o.frame);
    const Profile p = read_profile(o.profile);
    const auto [low, high] = focal_range(p);
    const double focal = r.metadata.focal_mm;
    if (!o.anyway && focal > 0 && low > 0 && (focal < 0.9 * low || focal > 1.1 * high))
        throw input_error(fmt::format(
            "{} was taken at {:g} mm, but the profile {} was measured {}; choose a profile of its lens, or say "
            "--anyway.",
            o.frame, focal, p.name,
            high > 1.01 * low ? fmt::format("from {:g} to {:g} mm", low, high) : fmt::format("at {:g} mm", low)));
    r.profile = AppliedProfile{node_at(p, {focal, r.metadata.aperture, r.metadata.distance_m}).node, p.geometry};
    r.chosen = p.name;
    return r;
}

void run(const Options& o) {
    if (o.profile.empty() == !o.use_store) throw usage_error("Give either --profile or --store.");
    if (int(o.fill) + int(o.keep) + int(o.scale > 0) > 1)
        throw usage_error("Give at most one of --fill, --scale and --keep-border.");
    require_regular(o.frame);
    check_output(o.out, tiff_output(), existing(o.overwrite));
    Recipe r = o.use_store ? from_store(o) : from_profile(o);
    const auto set_text = [&](Field f, const char* text) { r.fields.fields[static_cast<int>(f)].value = {0, text}; };
    if (o.fill) set_text(Field::border, "fill");
    if (o.keep) set_text(Field::border, "keep");
    if (o.scale > 0) {
        set_text(Field::border, "scale");
        r.fields.fields[static_cast<int>(Field::border_scale)].value = {o.scale, ""};
    }
    const Developed picture = develop_file(o.frame, r.metadata, r.fields, r.profile, console_progress());
    export_tiff(o.out, existing(o.overwrite), picture, o.frame, r.metadata);
    if (o.json)
        print_json({{"frame", o.frame},
                    {"out", o.out},
                    {"profile", r.chosen},
                    {"scale", picture.scale},
                    {"size", {picture.rgb.cols, picture.rgb.rows}}});
    else
        fmt::print("{}: profile {}, scale {:.4f}\n", o.out, r.chosen, picture.scale);
}

}  // namespace

void add_correct(CLI::App& app) {
    auto* command = add_command(app, "correct", "Develop and correct a frame into a 16-bit TIFF",
                                "correct --store studio --frame SP0005.dng --out SP0005.tif --fill");
    auto o = std::make_shared<Options>();
    command->add_option("--profile", o->profile, "Correct by this profile, with a neutral development");
    auto* store = command->add_option("--store", o->store, "Develop and correct as this store says");
    command->add_option("--frame", o->frame, "The frame")->required();
    command->add_option("--out", o->out, "TIFF to write (.tif or .tiff)")->required();
    command->add_flag("--fill", o->fill, "Scale as little as fills the border");
    command->add_option("--scale", o->scale, "Scale by this factor")->check(between(0.2, 5.0));
    command->add_flag("--keep-border", o->keep, "Scale 1, empty border included");
    command->add_flag("--anyway", o->anyway, "With --profile: also when the frame's focal length is not the profile's");
    add_overwrite_flag(*command, o->overwrite);
    command->add_flag("--json", o->json, "Print JSON");
    command->callback([o, store] {
        o->use_store = store->count() > 0;
        run(*o);
    });
}

}  // namespace optrel::cli
