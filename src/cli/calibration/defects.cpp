// SPDX-License-Identifier: GPL-3.0-or-later
#include <fmt/format.h>

#include "base/error.h"
#include "base/figure_text.h"
#include "base/files.h"
#include "base/station.h"
#include "base/times.h"
#include "base/words.h"
#include "cli/commands.h"
#include "sensor/defect_kind.h"
#include "sensor/defect_search.h"
#include "studio/baselines/naming.h"
#include "studio/frames/body_measurements.h"

namespace optrel::cli {
namespace {

using nlohmann::json;
namespace fs = std::filesystem;

struct DefectOptions {
    std::vector<std::string> flats, darks;
    std::string out, text, store, body, map;
    bool json = false, overwrite = false;
};

void print_counts(const DefectMap& map) {
    fmt::print("{} hot, {} unstable and {} dead pixels, {} bad lines, {} dust spots\n", map.count(DefectKind::hot),
               map.count(DefectKind::unstable), map.count(DefectKind::dead), map.lines.size(), map.dust.size());
}

void find(const DefectOptions& o) {
    if (o.flats.empty() && o.darks.empty())
        throw usage_error("Name dark frames (--darks), flat fields (--flats) or both.");
    if (!o.out.empty()) check_output(o.out, json_output(), existing(o.overwrite));
    if (!o.text.empty()) check_output(o.text, csv_output(), existing(o.overwrite));
    DefectSearch found =
        find_defects({o.flats.begin(), o.flats.end()}, {o.darks.begin(), o.darks.end()}, console_progress());
    found.map.author = current_author();
    found.map.time = utc_now();
    const std::string document = defects_to_json(found.map);
    if (!o.out.empty()) write_or_print(o.out, json_output(), o.overwrite, document);
    if (!o.text.empty()) write_or_print(o.text, csv_output(), o.overwrite, defects_to_csv(found.map));
    if (o.json) {
        print_json(json::parse(document));
    } else {
        print_counts(found.map);
        for (const DarkSetting& s : found.map.settings)
            fmt::print("ISO {}, {:g} s: {} dark frames, noise {} (one sigma)\n", s.iso, s.exposure_s, s.frames,
                       figure_text(figures::counts, s.noise));
        if (found.map.settings.empty()) fmt::print("No dark frames: hot and unstable pixels were not looked for.\n");
        if (found.map.flats == 0) fmt::print("No flat fields: dead pixels and dust were not looked for.\n");
    }
    fail_with(found.problems);
}

void as_text(const DefectOptions& o) {
    const DefectMap map = defects_from_json(read_file(o.map), o.map);
    write_or_print(o.out, csv_output(), o.overwrite, defects_to_csv(map));
}

/// The versions of one body's map, oldest first.
std::vector<std::shared_ptr<const PublishedDefects>> versions_of(const Store& store, const std::string& body_text) {
    const auto fleet = store.registry().fleet();
    const Body* body = fleet->body(Naming(store).body(body_text));
    if (!body) throw input_error(fmt::format("The register has no body '{}'.", printable(body_text)));
    std::vector<std::shared_ptr<const PublishedDefects>> out;
    const std::shared_ptr<const BodyMeasurements> measured = body_measurements(store);
    for (const auto& m : measured->defects)
        if (m->map.camera == body->camera() && m->map.serial == body->measured_serial()) out.push_back(m);
    std::sort(out.begin(), out.end(), [](const auto& a, const auto& b) { return a->version < b->version; });
    return out;
}

void growth(const DefectOptions& o) {
    const Store store = open_store(o.store, Access::read);
    json list = json::array();
    const DefectMap* before = nullptr;
    const auto versions = versions_of(store, o.body);
    for (const auto& v : versions) {
        const DefectMap& map = v->map;
        const DefectChange change = before ? change_between(*before, map) : DefectChange();
        list.push_back({{"version", v->version},
                        {"time", map.time},
                        {"current", v->current},
                        {"hot", map.count(DefectKind::hot)},
                        {"unstable", map.count(DefectKind::unstable)},
                        {"dead", map.count(DefectKind::dead)},
                        {"lines", map.lines.size()},
                        {"dust", map.dust.size()},
                        {"new_pixels", change.new_pixels},
                        {"gone_pixels", change.gone_pixels},
                        {"new_lines", change.new_lines},
                        {"gone_lines", change.gone_lines}});
        if (!o.json) {
            fmt::print("{} version {}{}: ", printable(map.time.substr(0, 10)), v->version,
                       v->current ? " (current)" : "");
            print_counts(map);
            if (before)
                fmt::print(
                    "    since the version before: {} pixels new, {} no longer defect; {} lines new, {} no "
                    "longer\n",
                    change.new_pixels, change.gone_pixels, change.new_lines, change.gone_lines);
        }
        before = &map;
    }
    end_list(list, o.json, "This body has no defect map.");
}

}  // namespace

void add_defects(CLI::App& app) {
    auto* command = add_command(app, "defects", "Find hot, unstable and dead pixels and bad lines of a sensor",
                                "defects find --darks darks/*.dng --flats flats/*.dng --out defects.json");
    command->require_subcommand(1);
    auto o = std::make_shared<DefectOptions>();
    auto* finding = add_command(*command, "find", "Find the defects of one body on dark frames and flat fields",
                                "defects find --darks darks/*.dng --flats flats/*.dng --out defects.json");
    finding->add_option("--darks", o->darks,
                        "Raw frames with the cap on, four or more for each ISO and exposure time that matters");
    finding->add_option("--flats", o->flats, "Raw flat fields, four or more, with a small aperture to show dust");
    finding->add_option("--out", o->out, "JSON file for the map");
    finding->add_option("--text", o->text, "CSV file for the list of defects");
    add_overwrite_flag(*finding, o->overwrite);
    finding->add_flag("--json", o->json, "Print the map as JSON");
    finding->callback([o] { find(*o); });

    auto* text = add_command(*command, "text", "Write a map as text (CSV)", "defects text defects.json --out list.csv");
    text->add_option("map", o->map, "Map (JSON) as 'defects find' wrote it")->required();
    text->add_option("--out", o->out, "CSV file; printed without it");
    add_overwrite_flag(*text, o->overwrite);
    text->callback([o] { as_text(*o); });

    auto* growing = add_command(*command, "growth", "List the versions of a body's map, and what each one added",
                                "defects growth --body HB-014 --store studio");
    add_store_option(*growing, o->store);
    growing->add_option("--body", o->body, "The body, by a name or number of the register")->required();
    growing->add_flag("--json", o->json, "Print JSON");
    growing->callback([o] { growth(*o); });
}

}  // namespace optrel::cli
