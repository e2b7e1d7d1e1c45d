// SPDX-License-Identifier: GPL-3.0-or-later
// optrel-cli colour: colour profiles for raw frames.
#include <fmt/format.h>

#include "base/figure_text.h"
#include "base/station.h"
#include "cli/commands.h"
#include "cli/development/colour_measure.h"
#include "frames/colour_profile.h"
#include "studio/baselines/references.h"
#include "studio/development/colour_files.h"
#include "studio/fleet/claim.h"

namespace optrel::cli {
namespace {

using nlohmann::json;

struct ColourOptions {
    std::string store, file, frame, profile;
    bool json = false;
};

json json_of(const ColourFile& f) {
    return {{"name", f.name},         {"value", f.value().text}, {"hash", f.hash},     {"camera", f.camera},
            {"contents", f.contents}, {"origin", f.origin},      {"author", f.author}, {"time", f.time}};
}

json json_of(const ColourProfile& p) {
    json out = {{"name", p.name}, {"camera", p.camera}, {"copyright", p.copyright}, {"contents", p.contents()}};
    if (p.dng)
        for (const ProfileLight& l : p.dng->lights) out["lights"].push_back(l.kelvin);
    return out;
}

json json_of(const ColourChange& c) {
    return {{"frame", c.frame},          {"before", c.before},      {"after", c.after},
            {"mean", c.difference.mean}, {"p95", c.difference.p95}, {"largest", c.difference.largest}};
}

void list(const ColourOptions& o) {
    const Store store = open_store(o.store, Access::read);
    const std::vector<ColourFile> files = store.colours().all();
    const std::vector<EmbeddedName> carried = carried_names(store.frames().all(), *store.registry().fleet());
    if (o.json) {
        json out = {{"files", json::array()}, {"carried", json::array()}};
        for (const ColourFile& f : files) out["files"].push_back(json_of(f));
        for (const EmbeddedName& c : carried)
            out["carried"].push_back(
                {{"body", c.body}, {"name", c.name}, {"frames", c.frames}, {"example", c.example.string()}});
        return print_json(out);
    }
    if (files.empty() && carried.empty())
        fmt::print(
            "No colour files are kept, and no frame carries a colour profile; take one in with 'colour take-in'.\n");
    for (const ColourFile& f : files)
        fmt::print("{}  {}{}\n", f.value().text, f.contents, f.camera.empty() ? "" : ", for " + f.camera);
    for (const EmbeddedName& c : carried)
        fmt::print("carried by {} frame{} of {}: {}\n", c.frames, c.frames == 1 ? "" : "s",
                   c.body.empty() ? "a body that is not known" : c.body, c.name);
}

/// The requested profile: embedded in a frame, or from a file.
ColourProfile named_profile(const ColourOptions& o) {
    return o.file.empty() ? carried_profile(o.frame, o.profile) : read_colour_profile(o.file);
}

void take_in(const ColourOptions& o) {
    if (o.file.empty() == o.frame.empty())
        throw usage_error("Name either a file, or with --frame a frame that carries a colour profile.");
    if (!o.profile.empty() && o.frame.empty())
        throw usage_error("--profile chooses among the profiles that a frame carries; name the frame with --frame.");
    const ColourProfile profile = named_profile(o);
    Store store = open_store(o.store, Access::write);
    const ColourFile kept = store.colours().put(profile, o.file.empty() ? o.frame : o.file, current_author());
    if (o.json) return print_json(json_of(kept));
    fmt::print("{} is kept ({}). Pin it with: optrel-cli baseline pin --field colour_source --value '{}'\n", kept.name,
               kept.contents, kept.value().text);
}

void show(const ColourOptions& o) {
    const ColourProfile profile = read_colour_profile(o.file);
    if (o.json) return print_json(json_of(profile));
    fmt::print("{}: {}{}\n", profile.name, profile.contents(),
               profile.camera.empty() ? "" : "; only for " + profile.camera);
    if (profile.dng)
        for (const ProfileLight& l : profile.dng->lights)
            fmt::print("  for light of {}\n", figure_text(figures::temperature, l.kelvin));
    if (!profile.copyright.empty()) fmt::print("  {}\n", profile.copyright);
}

void compare(const ColourOptions& o) {
    const Store store = open_store(o.store, Access::read);
    FrameDevelopment development = development_from_store(store, o.frame);
    const ColourChange change = colour_change(o.frame, development, read_colour_profile(o.file), console_progress());
    if (o.json) return print_json(json_of(change));
    fmt::print("{}\n", change.sentence());
}

}  // namespace

void add_colour(CLI::App& app) {
    auto* colour = add_command(
        app, "colour", "What renders the colours of raw frames: colour files, and what frames carry", "colour list");
    colour->require_subcommand(1);
    auto o = std::make_shared<ColourOptions>();
    const auto with_json = [o](CLI::App* c) { c->add_flag("--json", o->json, "Print the result as JSON"); };

    auto* list_command = add_command(*colour, "list", "List the colour files of the studio, and what frames carry",
                                     "colour list --json");
    add_store_option(*list_command, o->store);
    with_json(list_command);
    list_command->callback([o] { list(*o); });

    auto* take_command = add_command(*colour, "take-in", "Keep a colour file, or the profile that a frame carries",
                                     "colour take-in warm-room.icc");
    take_command->add_option("file", o->file, "An ICC input profile, or a colour profile of the DNG specification");
    take_command->add_option("--frame", o->frame, "A frame that carries a colour profile");
    take_command->add_option("--profile", o->profile, "Which of those that the frame carries; the first one");
    add_store_option(*take_command, o->store);
    with_json(take_command);
    take_command->callback([o] { take_in(*o); });

    auto* show_command = add_command(*colour, "show", "Say what a colour file holds", "colour show warm-room.icc");
    show_command->add_option("file", o->file, "A colour file")->required();
    with_json(show_command);
    show_command->callback([o] { show(*o); });

    add_colour_measure(*colour);
    add_colour_alike(*colour);
    add_colour_neutral(*colour);

    auto* compare_command =
        add_command(*colour, "compare", "Say how far a colour file would move the colours of a frame",
                    "colour compare warm-room.icc --frame shoot/0001.dng");
    compare_command->add_option("file", o->file, "A colour file")->required();
    compare_command->add_option("--frame", o->frame, "A raw frame of the studio")->required();
    add_store_option(*compare_command, o->store);
    with_json(compare_command);
    compare_command->callback([o] { compare(*o); });
}

}  // namespace optrel::cli
