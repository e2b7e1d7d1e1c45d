// SPDX-License-Identifier: GPL-3.0-or-later
// optrel-cli film: moving pictures.
#include <fmt/format.h>

#include "base/error.h"
#include "base/figure_text.h"
#include "base/files.h"
#include "base/station.h"
#include "base/times.h"
#include "base/words.h"
#include "cli/commands.h"
#include "studio/baselines/naming.h"
#include "studio/development/film_development.h"
#include "studio/exports/films.h"
#include "studio/fleet/claim.h"

namespace optrel::cli {
namespace {

using nlohmann::json;

struct FilmOptions {
    std::string store, film, profile, profile_file, out, codec = "ffv1", pattern, body;
    std::vector<std::string> set;
    double focal_mm = 0, area_mm = 0, at = 0;
    bool json = false, overwrite = false;
};

json json_of(const FilmFacts& f) {
    return {{"size", {f.width, f.height}},
            {"frames_per_second", f.frames_per_second},
            {"seconds", f.seconds},
            {"frames", f.frames},
            {"codec", f.codec},
            {"format", f.format},
            {"curve", to_string(f.curve)},
            {"curve_assumed", f.curve_assumed},
            {"full_range", f.full_range},
            {"turned_degrees", f.turned_deg},
            {"sounds", f.sounds}};
}

void show(const FilmOptions& o) {
    const FilmFacts f = open_film(o.film)->facts();
    if (o.json) return print_json(json_of(f));
    fmt::print("{}: {} × {} px, {} pictures a second, {}; {} ({}), curve {}{}, {} range{}{}\n", o.film, f.width,
               f.height, number_text(figures::rate, f.frames_per_second), figure_text(figures::duration, f.seconds),
               f.codec, f.format, to_string(f.curve), f.curve_assumed ? " (assumed)" : "",
               f.full_range ? "full" : "limited", f.sounds ? fmt::format(", sound {}", f.sounds) : ", no sound",
               f.turned_deg ? fmt::format(", turned by {} degrees", f.turned_deg) : "");
}

FrameDevelopment development_of(const FilmOptions& o) {
    if (!o.profile_file.empty())
        return film_development(o.film, std::filesystem::path(o.profile_file), o.focal_mm, o.area_mm);
    const Store store = open_store(o.store, Access::read);
    return film_development(store, o.film, o.profile, o.focal_mm, o.area_mm);
}

void correct(const FilmOptions& o) {
    Delivery form = plain_delivery(ExportFormat::film);
    form.film.codec = film_codec_from(o.codec);
    const std::string ending = lowered_extension(o.out);
    if (!ending.empty()) form.film.container = ending.substr(1);
    FrameDevelopment facts = development_of(o);
    for (const std::string& s : o.set) set_field(facts, s);
    const Exported done = export_film(o.film, facts, form, o.out, existing(o.overwrite), console_progress());
    tell_problems(done.remarks);
    if (o.json)
        return print_json(
            {{"out", o.out}, {"frames", done.pictures}, {"profile", facts.chosen}, {"remarks", done.remarks}});
    fmt::print("{}: {} pictures, profile {}\n", o.out, done.pictures, facts.chosen);
}

void assign(const FilmOptions& o) {
    Store store = open_store(o.store, Access::write);
    FilmRule rule{o.pattern, "", o.focal_mm, o.area_mm, o.body, current_author(), utc_now()};
    if (!o.profile.empty()) rule.profile = profile_reference(store.profiles().all_versions(), o.profile);
    store.film_rules().put(rule);
}

void list_rules(const FilmOptions& o) {
    const Store store = open_store(o.store, Access::read);
    json out = json::array();
    for (const FilmRule& r : store.film_rules().all()) {
        out.push_back({{"pattern", r.pattern},
                       {"profile", r.profile},
                       {"focal_mm", r.focal_mm},
                       {"area_width_mm", r.area_width_mm},
                       {"body", r.body},
                       {"author", r.author},
                       {"time", r.time}});
        if (!o.json)
            fmt::print("{}  {:g} mm, {:g} mm of the sensor, profile {}\n", r.pattern, r.focal_mm, r.area_width_mm,
                       r.profile.empty() ? "none" : r.profile);
    }
    if (o.json) print_json(out);
}

void add_lens(CLI::App& command, FilmOptions& o) {
    command.add_option("--profile", o.profile, "The lens profile: id or name [default: as a rule says]");
    command.add_option("--focal", o.focal_mm, "Focal length in mm [default: as a rule says]")
        ->check(between(0.5, 5000));
    command.add_option("--area", o.area_mm, "Width of the recorded part of the sensor in mm [default: as a rule says]")
        ->check(between(0.5, 200));
}

}  // namespace

void add_film(CLI::App& app) {
    auto* film =
        add_command(app, "film", "Moving pictures: what they are, corrected, a still of one, rules for folders",
                    "film correct shot.mov --profile p7 --focal 35 --area 36 --out shot.mkv");
    film->require_subcommand(1);
    auto o = std::make_shared<FilmOptions>();
    auto* info_command = add_command(*film, "info", "Say what a film is", "film info shot.mov --json");
    info_command->add_option("film", o->film, "The film")->required();
    info_command->add_flag("--json", o->json, "Print JSON");
    info_command->callback([o] { show(*o); });

    auto* correct_command = add_command(*film, "correct", "Correct every picture of a film; sound and tags go along",
                                        "film correct shot.mov --codec h265 --out shot.mp4");
    correct_command->add_option("film", o->film, "The film")->required();
    add_store_option(*correct_command, o->store);
    add_lens(*correct_command, *o);
    correct_command->add_option("--profile-file", o->profile_file, "A profile from a file, without a store")
        ->excludes("--profile")
        ->excludes("--store");
    correct_command->add_option("--set", o->set, "FIELD=VALUE for this once, for instance border=fill");
    correct_command->add_option("--codec", o->codec, one_of(film_codec_names()))->capture_default_str();
    correct_command->add_option("--out", o->out, "FILE.mkv, FILE.mov or FILE.mp4")->required();
    add_overwrite_flag(*correct_command, o->overwrite);
    correct_command->add_flag("--json", o->json, "Print JSON");
    correct_command->callback([o] { correct(*o); });

    auto* still_command =
        add_command(*film, "still", "Write a picture of a film as a TIFF, to be looked at like a frame",
                    "film still shot.mov --at 12.5 --out shot-12.tif");
    still_command->add_option("film", o->film, "The film")->required();
    still_command->add_option("--at", o->at, "Seconds from its beginning")->check(between(0, 1e6))->required();
    still_command->add_option("--out", o->out, "FILE.tif")->required();
    add_overwrite_flag(*still_command, o->overwrite);
    still_command->callback([o] { write_film_still(o->film, o->at, o->out, existing(o->overwrite)); });

    auto* assign_command =
        add_command(*film, "assign", "Remember lens and recorded area for films of a folder or a name",
                    "film assign '/shoots/north/*' --profile p7 --focal 35 --area 36");
    assign_command->add_option("pattern", o->pattern, "Of paths, with * and ?")->required();
    add_store_option(*assign_command, o->store);
    add_lens(*assign_command, *o);
    assign_command->add_option("--body", o->body, "Which body, for people");
    assign_command->callback([o] { assign(*o); });

    auto* rules_command = add_command(*film, "rules", "List what is remembered for films", "film rules --json");
    add_store_option(*rules_command, o->store);
    rules_command->add_flag("--json", o->json, "Print JSON");
    rules_command->callback([o] { list_rules(*o); });

    auto* forget_command = add_command(*film, "forget", "Forget a rule for films", "film forget '/shoots/north/*'");
    forget_command->add_option("pattern", o->pattern, "Of a rule")->required();
    add_store_option(*forget_command, o->store);
    forget_command->callback([o] { open_store(o->store, Access::write).film_rules().remove(o->pattern); });
}

}  // namespace optrel::cli
