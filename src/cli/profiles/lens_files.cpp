// SPDX-License-Identifier: GPL-3.0-or-later
// optrel-cli map-image, camera-model and tables: lens data for other programs.
#include <fmt/format.h>

#include "base/error.h"
#include "base/figure_text.h"
#include "base/files.h"
#include "cli/commands.h"
#include "cli/profiles/lens_at.h"
#include "exchange/camera_model.h"
#include "exchange/displacement_map.h"
#include "exchange/lens_tables.h"
#include "optics/uncertainty.h"
#include "studio/calibration/camera_file.h"
#include "studio/fleet/claim.h"

namespace optrel::cli {
namespace {

using nlohmann::json;
namespace fs = std::filesystem;

struct MapImageOptions {
    LensOptions lens;
    std::string direction = "to-frame", out;
    MapRequest wish;
    bool overwrite = false, json = false;
};

void write_map(const MapImageOptions& o) {
    MapRequest wish = o.wish;
    wish.direction = map_direction_from(o.direction);
    const LensAt lens = lens_at(o.lens);
    constexpr double most = 160e6;  // maximum picture size, px
    if (double(lens.geometry.width) * lens.geometry.height > most)
        throw usage_error("A map has at most 160 million pixels; choose a smaller size.");
    const bool tiff = lowered_extension(o.out) == ".tif" || lowered_extension(o.out) == ".tiff";
    if (tiff && (wish.planes || wish.gain || wish.sigma))
        throw usage_error("A pair of TIFFs holds green's displacement alone; write an .exr for the rest.");
    if (!tiff) check_output(o.out, exr_output(), existing(o.overwrite));
    const MapChannels channels = displacement_map(
        lens.map(), wish,
        [&](const std::vector<Vec2>& at) { return mapping_sigma_px(lens.profile, lens.placed, lens.geometry, at); },
        console_progress());
    const std::string note = fmt::format("{} at {}", lens.profile.name, to_string(lens.placed.node.setting));
    json out = {{"out", o.out}, {"direction", o.direction}, {"size", {lens.geometry.width, lens.geometry.height}}};
    for (const auto& [name, plane] : channels) out["channels"].push_back(name);
    if (tiff)
        out["scale"] = write_tiff_pair(o.out, channels, wish.direction, note, existing(o.overwrite));
    else
        write_exr(o.out, channels, wish.direction, note, existing(o.overwrite));
    if (o.json) print_json(out);
}

struct CameraOptions {
    LensOptions lens;
    std::string out, file, frame, store, author;
    bool fisheye = false, overwrite = false, publish = false, json = false;
    int coefficients = 0;
};

void write_camera(const CameraOptions& o) {
    const LensAt lens = lens_at(o.lens);
    const bool as_json = lowered_extension(o.out) == ".json";
    check_output(o.out, camera_output(), existing(o.overwrite));
    const FittedCamera camera =
        o.coefficients > 0 ? fit_camera(lens.map(), o.fisheye, o.coefficients) : fit_camera(lens.map(), o.fisheye);
    const std::string note = fmt::format("{} at {}", lens.profile.name, to_string(lens.placed.node.setting));
    write_output(o.out, camera_output(), existing(o.overwrite), camera_to_text(camera, as_json, note));
    if (o.json)
        return print_json({{"out", o.out},
                           {"model", camera.model.fisheye ? "fisheye" : "pinhole"},
                           {"coefficients", camera.model.coefficients},
                           {"fit_rms_px", camera.rms_px},
                           {"fit_largest_px", camera.largest_px}});
    fmt::print("{} is written ({}); it follows the profile to {} RMS, {} at most.\n", o.out, camera.model.form(),
               figure_text(figures::shift, camera.rms_px), figure_text(figures::shift, camera.largest_px));
}

void read_camera(const CameraOptions& o) {
    Store store = open_store(o.store, o.publish ? Access::write : Access::read);
    const CameraFile made = profile_of_camera_file(o.file, o.frame, development_from_store(store, o.frame), o.author);
    json out = {{"model", made.model}, {"followed_to_px", made.followed_px}};
    if (made.difference)
        out["difference_from_profile"] = {{"rms_px", made.difference->rms_px},
                                          {"largest_px", made.difference->largest_px}};
    if (o.publish) {
        const Profile p = store.profiles().publish(made.profile, OtherSettings::keep);
        out.update({{"id", p.id}, {"version", p.version}, {"name", p.name}});
    }
    if (o.json) return print_json(out);
    fmt::print("{}", made.in_words());
    if (o.publish)
        fmt::print(
            "It is published as a profile of {}, marked as of a calibration file, to be assigned where it is wanted.\n",
            made.profile.lens);
    else
        fmt::print("Nothing was kept; --publish makes a profile of it.\n");
}

struct TableOptions {
    LensOptions lens;
    std::string out;
    bool overwrite = false;
};

void write_tables(const TableOptions& o) {
    const LensAt lens = lens_at(o.lens);
    const auto tables = lens_tables(lens.profile, lens.placed);
    if (!fs::is_directory(o.out))
        throw usage_error(fmt::format("{} is no folder; make it first, or name another.", o.out));
    const auto header = [](const std::string& text) { return text.substr(0, text.find('\n')); };
    for (const auto& [name, text] : tables)
        check_output(fs::path(o.out) / name, csv_output(), existing(o.overwrite), header(text));
    for (const auto& [name, text] : tables) {
        write_output(fs::path(o.out) / name, csv_output(), existing(o.overwrite), text);
        fmt::print("{}\n", (fs::path(o.out) / name).string());
    }
}

}  // namespace

void add_lens_files(CLI::App& app) {
    auto m = std::make_shared<MapImageOptions>();
    auto* map =
        add_command(app, "map-image", "Write the correction of a lens as a map over the picture, EXR or 16-bit TIFFs",
                    "map-image --profile p.json --size 6000x4000 --focal 35 --planes --gain --out p.exr");
    add_lens_options(*map, m->lens);
    map->add_option("--direction", m->direction,
                    "to-frame: where corrected pixels lie in the frame; to-ideal: the other way")
        ->capture_default_str();
    map->add_flag("--planes", m->wish.planes, "Red and blue as well");
    map->add_flag("--gain", m->wish.gain, "What undoes the falloff");
    map->add_flag("--sigma", m->wish.sigma, "One sigma of the mapping");
    map->add_option("--out", m->out, "FILE.exr, or FILE.tif for FILE-x.tif and FILE-y.tif")->required();
    add_overwrite_flag(*map, m->overwrite);
    map->add_flag("--json", m->json, "Print JSON");
    map->callback([m] { write_map(*m); });

    auto* camera = add_command(app, "camera-model", "A lens in the camera model of OpenCV: written, and taken in",
                               "camera-model write --profile p.json --size 6000x4000 --out p.yml");
    camera->require_subcommand(1);
    auto c = std::make_shared<CameraOptions>();
    auto* writing = add_command(*camera, "write", "Write a profile at a lens setting as a camera model",
                                "camera-model write --profile p.json --size 6000x4000 --coefficients 8 --out p.yml");
    add_lens_options(*writing, c->lens);
    writing->add_flag("--fisheye", c->fisheye, "The fisheye model, over angles");
    writing
        ->add_option("--coefficients", c->coefficients, "5, 8, 12 or 14; fisheye 4 [default: the fewest that follow]")
        ->check(between(1, 100));
    writing->add_option("--out", c->out, "FILE.yml or FILE.json")->required();
    add_overwrite_flag(*writing, c->overwrite);
    writing->add_flag("--json", c->json, "Print JSON");
    writing->callback([c] { write_camera(*c); });
    auto r = std::make_shared<CameraOptions>();
    auto* reading =
        add_command(*camera, "read", "Show, or keep as a profile, a camera model that another program wrote",
                    "camera-model read rig.yml --frame SP0005.dng --publish");
    add_store_option(*reading, r->store);
    reading->add_option("file", r->file, "The camera model: YAML, JSON or XML of OpenCV")->required();
    reading->add_option("--frame", r->frame, "A frame of the camera and lens that it is of")->required();
    reading->add_option("--author", r->author, "Who takes it in");
    reading->add_flag("--publish", r->publish, "Keep it; without, its difference from the profile in use is shown");
    reading->add_flag("--json", r->json, "Print JSON");
    reading->callback([r] { read_camera(*r); });

    auto t = std::make_shared<TableOptions>();
    auto* tables = add_command(
        app, "tables", "Write distortion, chromatic displacement and falloff as CSV, in the terms of the standards",
        "tables --profile p.json --focal 35 --out tables/");
    add_lens_options(*tables, t->lens, false);
    tables->add_option("--out", t->out, "A folder that is there")->required();
    add_overwrite_flag(*tables, t->overwrite);
    tables->callback([t] { write_tables(*t); });
}

}  // namespace optrel::cli
