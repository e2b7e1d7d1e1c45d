// SPDX-License-Identifier: GPL-3.0-or-later
#include <fmt/format.h>

#include "base/figure_text.h"
#include "base/paths.h"
#include "base/station.h"
#include "base/times.h"
#include "base/words.h"
#include "cli/commands.h"
#include "sensor/colour_names.h"
#include "sensor/noise_json.h"

namespace optrel::cli {
namespace {

struct NoiseOptions {
    std::vector<std::string> frames, darks;
    std::string out, store;
    bool json = false, overwrite = false;
};

std::vector<std::filesystem::path> paths_of(const std::vector<std::string>& texts) {
    return {texts.begin(), texts.end()};
}

std::string shown(const MeasuredFigure& f) { return figure_with_sigma(f.value, f.sigma); }

void print_table(const NoiseMeasurement& m) {
    fmt::print("{:>6} {:6} {:>20} {:>18} {:>16} {:>14} {:>10}\n", "ISO", "colour", "gain, e/count", "read noise, e",
               "full well, e", "PRNU, %", "range, EV");
    for (const IsoNoise& iso : m.isos)
        for (std::size_t c = 0; c < 3; ++c) {
            const ColourNoise& n = iso.colours[c];
            fmt::print("{:>6} {:6} {:>20} {:>18} {:>16} {:>14} {:>10}\n", iso.iso, colour_names[c], shown(n.gain),
                       shown(n.read_noise), shown(n.full_well), shown(n.prnu),
                       number_text(figures::range, n.dynamic_range_ev));
        }
    fmt::print("Uncertainties are one sigma.\n");
    if (m.digital_above_iso > 0)
        fmt::print("Above ISO {} read noise gets no lower: the body only multiplies its counts, or might as well.\n",
                   m.digital_above_iso);
}

void run(const NoiseOptions& o) {
    if (!o.out.empty()) check_output(o.out, json_output(), existing(o.overwrite));
    // Opened first: a mistyped store is told before the measurement takes its time.
    if (!o.store.empty()) open_store(o.store, Access::write);
    const NoiseMeasurement m = measure_noise(paths_of(o.frames), paths_of(o.darks), console_progress());
    const std::string document = noise_to_json(m, current_author(), utc_now());
    if (!o.store.empty()) {
        BodyRun kept;
        kept.name = "Noise of " + trimmed(camera_name(m.body) + " " + m.body.body_serial);
        for (const std::vector<std::string>* list : {&o.frames, &o.darks})
            for (const std::string& frame : *list) kept.frames.push_back({plain_path(frame), false});
        kept.result = document;
        fmt::print(stderr, "Run {} is kept; it stands on the Bench.\n",
                   open_store(o.store, Access::write).body_runs().put(kept));
    }
    if (!o.out.empty()) write_or_print(o.out, json_output(), o.overwrite, document);
    if (o.json)
        print_json(nlohmann::json::parse(document));
    else
        print_table(m);
    for (const NoiseFinding& f : m.findings)
        fmt::print(stderr, "{}{}: {} {}\n", f.serious ? "serious, " : "", f.name, printable(f.text),
                   printable(f.remedy));
}

}  // namespace

void add_noise(CLI::App& app) {
    auto o = std::make_shared<NoiseOptions>();
    auto* command = add_command(app, "noise",
                                "Measure gain, read noise and uniformity of a body from pairs of flat fields and from "
                                "dark frames, for each ISO",
                                "noise --frames flats/*.dng --darks darks/*.dng --out noise.json");
    command->add_option("--frames", o->frames, "Raw flat fields: two at each exposure, several exposures for each ISO")
        ->required();
    command->add_option("--darks", o->darks, "Raw frames that were taken with the cap on, two or more for each ISO");
    command->add_option("--out", o->out, "JSON file for the measurement");
    command->add_option("--store", o->store, "Store that keeps frames and result as a run on the Bench");
    add_overwrite_flag(*command, o->overwrite);
    command->add_flag("--json", o->json, "Print the measurement as JSON");
    command->callback([o] { run(*o); });
}

}  // namespace optrel::cli
