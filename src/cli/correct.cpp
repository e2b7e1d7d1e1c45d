#include <fmt/format.h>

#include "base/files.h"
#include "commands.h"
#include "studio/studio.h"

namespace optrel::cli {
namespace {

struct Options {
    std::string profile, store, frame, out;
    bool fill = false, keep = false, json = false, use_store = false;
    double scale = 0;
};

void run(const Options& o) {
    if (o.profile.empty() == !o.use_store) throw usage_error("Give either --profile or --store.");
    if (int(o.fill) + int(o.keep) + int(o.scale > 0) > 1) throw usage_error("Give at most one of --fill, --scale and --keep-border.");
    Metadata metadata = read_metadata(o.frame);
    ResolvedFrame fields = neutral_start();
    std::optional<AppliedProfile> profile;
    std::string chosen = "none";
    if (o.use_store) {
        Store store(o.store);
        const Sheet sheet = read_sheet(o.frame);
        const FrameKnowledge known = know(std::filesystem::absolute(o.frame), metadata, *store.fleet());
        metadata = known.metadata;
        fields = fields_of(sheet, known.facts, Resolver(store.current_revision()));
        const std::vector<Profile> profiles = store.profiles();
        const ProfileMatch match = profile_of(sheet, fields, metadata, profiles);
        profile = applied(match, metadata);
        if (profile) chosen = fmt::format("{} version {} ({})", match.profile->name, match.profile->version, to_string(match.grade));
    } else {
        const Profile p = profile_from_json(read_file(o.profile), o.profile);
        profile = AppliedProfile{node_at(p, {metadata.focal_mm, metadata.aperture, metadata.distance_m}).node, p.geometry};
        chosen = p.name;
    }
    const auto set_text = [&](Field f, const char* text) { fields.fields[static_cast<int>(f)].value = {0, text}; };
    if (o.fill) set_text(Field::border, "fill");
    if (o.keep) set_text(Field::border, "keep");
    if (o.scale > 0) {
        set_text(Field::border, "scale");
        fields.fields[static_cast<int>(Field::border_scale)].value = {o.scale, ""};
    }
    const Developed picture = develop_file(o.frame, metadata, fields, profile, console_progress());
    export_tiff(o.out, picture, metadata);
    if (o.json)
        print_json({{"frame", o.frame}, {"out", o.out}, {"profile", chosen}, {"scale", picture.scale}, {"size", {picture.rgb.cols, picture.rgb.rows}}});
    else
        fmt::print("{}: profile {}, scale {:.4f}\n", o.out, chosen, picture.scale);
}

}  // namespace

void add_correct(CLI::App& app) {
    auto* command = app.add_subcommand("correct", "Develop and correct a frame into a 16-bit TIFF");
    auto o = std::make_shared<Options>();
    command->add_option("--profile", o->profile, "Correct by this profile, with a neutral development");
    auto* store = command->add_option("--store", o->store, "Develop and correct as this store says");
    command->add_option("--frame", o->frame, "The frame")->required();
    command->add_option("--out", o->out, "TIFF to write")->required();
    command->add_flag("--fill", o->fill, "Scale as little as fills the border");
    command->add_option("--scale", o->scale, "Scale by this factor")->check(CLI::Range(0.2, 5.0));
    command->add_flag("--keep-border", o->keep, "Scale 1, empty border included");
    command->add_flag("--json", o->json, "Print JSON");
    command->callback([o, store] {
        o->use_store = store->count() > 0;
        run(*o);
    });
}

}  // namespace optrel::cli
