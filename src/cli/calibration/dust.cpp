// SPDX-License-Identifier: GPL-3.0-or-later
#include <fmt/format.h>

#include "base/error.h"
#include "base/figure_text.h"
#include "cli/commands.h"
#include "sensor/dust.h"

namespace optrel::cli {
namespace {

struct DustOptions {
    std::vector<std::string> frames;
    double limit_percent = 2;
    int most = 20;
    bool json = false;
};

void look(const DustOptions& o) {
    if (!(o.limit_percent > 0)) throw usage_error("The limit (--limit-percent) is a number above 0.");
    const DustFound found = find_dust({o.frames.begin(), o.frames.end()}, console_progress());
    int deep = 0;
    for (const DustSpot& s : found.spots) deep += s.depth_percent > o.limit_percent;
    const bool clean = deep == 0 && static_cast<int>(found.spots.size()) <= o.most;
    if (o.json) {
        nlohmann::json spots = nlohmann::json::array();
        for (const DustSpot& s : found.spots)
            spots.push_back({{"u", s.place.x()},
                             {"v", s.place.y()},
                             {"radius_px", s.radius_px},
                             {"depth_percent", {{"value", s.depth_percent}, {"sigma", s.sigma_percent}}}});
        print_json({{"width", found.width},
                    {"height", found.height},
                    {"spots", spots},
                    {"deeper_than_limit", deep},
                    {"limit_percent", o.limit_percent},
                    {"clean", clean}});
    } else {
        for (const DustSpot& s : found.spots)
            fmt::print("{:>18}  radius {:>8}  depth {:>14}\n", pair_text(figures::place, s.place.x(), s.place.y()),
                       figure_text(figures::place, s.radius_px),
                       figure_text(figures::light, s.depth_percent, s.sigma_percent));
        fmt::print("{} spots, {} deeper than {:g} %. {}\n", found.spots.size(), deep, o.limit_percent,
                   clean ? "The sensor is clean enough." : "Clean the sensor.");
    }
    fail_with(found.problems);
}

}  // namespace

void add_dust(CLI::App& app) {
    auto o = std::make_shared<DustOptions>();
    auto* command = add_command(app, "dust", "Find dust on the sensor, on flat fields: where, how large, how deep",
                                "dust --frames flats/*.dng --limit-percent 2");
    command
        ->add_option("--frames", o->frames, "Flat fields of one body, with a small aperture; their mean is looked at")
        ->required();
    command
        ->add_option("--limit-percent", o->limit_percent,
                     "Light that a spot may take before the sensor is to be cleaned")
        ->check(CLI::Range(0.05, 100.0))
        ->capture_default_str();
    command->add_option("--most", o->most, "Spots that there may be")
        ->check(CLI::Range(0, 100000))
        ->capture_default_str();
    command->add_flag("--json", o->json, "Print JSON");
    command->callback([o] { look(*o); });
}

}  // namespace optrel::cli
