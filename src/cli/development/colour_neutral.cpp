// SPDX-License-Identifier: GPL-3.0-or-later
// optrel-cli colour neutral: white balance from an area that is grey.
#include <fmt/format.h>

#include "base/error.h"
#include "base/figure_text.h"
#include "base/words.h"
#include "cli/commands.h"
#include "cli/development/colour_measure.h"
#include "patches/neutral_area.h"

namespace optrel::cli {
namespace {

using nlohmann::json;

struct NeutralOptions {
    std::vector<std::string> frames;
    std::vector<int> area;  ///< left, top, width, height
    bool json = false;
};

json offset_json(const ColourFigure& f) { return {{"value", f.value}, {"sigma", f.sigma}}; }

void neutral(const NeutralOptions& o) {
    const cv::Rect area(o.area[0], o.area[1], o.area[2], o.area[3]);
    json out = json::array();
    std::vector<std::string> problems;
    for (const std::string& frame : o.frames) {
        try {
            const NeutralArea n = neutral_of_area(read_raw(std::filesystem::path(frame)), area);
            out.push_back({{"frame", frame},
                           {"kelvin", n.offsets.light.kelvin},
                           {"tint", n.offsets.light.tint},
                           {"warmth_offset", offset_json(n.offsets.warmth)},
                           {"tint_offset", offset_json(n.offsets.tint)},
                           {"camera", n.neutral},
                           {"missed_percent", 100 * n.missed}});
            if (!o.json)
                fmt::print("{}: warmth {}, tint {} over what it records ({}, tint {})\n", printable(frame),
                           figure_text(figures::warmth, n.offsets.warmth.value, n.offsets.warmth.sigma),
                           figure_text(figures::tint, n.offsets.tint.value, n.offsets.tint.sigma),
                           figure_text(figures::temperature, n.offsets.light.kelvin),
                           figure_text(figures::tint, n.offsets.light.tint));
            if (n.missed > 0.01)
                fmt::print(stderr,
                           "{}: no temperature and tint make this area grey; {} of red or blue remain. The body "
                           "may see infrared: its colours are outside those of a chart.\n",
                           printable(frame), figure_text(figures::share, 100 * n.missed));
        } catch (const Error& error) {
            problems.push_back(reason_for(frame, error));
        }
    }
    if (o.json) print_json({{"frames", out}, {"problems", problems}});
    fail_with(problems);
}

}  // namespace

void add_colour_neutral(CLI::App& colour) {
    auto o = std::make_shared<NeutralOptions>();
    auto* command = add_command(colour, "neutral",
                                "Tell the warmth and tint that make an area grey: a grey card, or foliage for a body "
                                "that sees infrared",
                                "colour neutral --frames IR0001.dng --area 1200,800,400,300");
    command->add_option("--frames", o->frames, "Raw frames")->required();
    command->add_option("--area", o->area, "The area that is to be grey: left, top, width, height in px")
        ->delimiter(',')
        ->expected(4)
        ->check(whole(0, 100000))
        ->required();
    command->add_flag("--json", o->json, "Print JSON");
    command->callback([o] { neutral(*o); });
}

}  // namespace optrel::cli
