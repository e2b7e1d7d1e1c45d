// SPDX-License-Identifier: GPL-3.0-or-later
// optrel-cli colour neutral: white balance from an area that is grey.
#include <fmt/format.h>

#include <sstream>

#include "base/error.h"
#include "base/numbers.h"
#include "base/words.h"
#include "cli/commands.h"
#include "cli/development/colour_measure.h"
#include "patches/neutral_area.h"

namespace optrel::cli {
namespace {

using nlohmann::json;

struct NeutralOptions {
    std::vector<std::string> frames;
    std::string area;
    bool json = false;
};

cv::Rect area_of(const std::string& text) {
    std::vector<int> numbers;
    std::istringstream parts(text);
    for (std::string part; std::getline(parts, part, ',');) {
        const auto number = parse_integer(part);
        if (!number || *number < 0 || *number > 100000)
            throw usage_error(
                fmt::format("'{}' is no area; write left, top, width and height in px, as in "
                            "1200,800,400,300.",
                            printable(text)));
        numbers.push_back(static_cast<int>(*number));
    }
    if (numbers.size() != 4)
        throw usage_error("An area has four numbers: left, top, width and height in px, as in 1200,800,400,300.");
    return {numbers[0], numbers[1], numbers[2], numbers[3]};
}

json offset_json(const ColourFigure& f) { return {{"value", f.value}, {"sigma", f.sigma}}; }

void neutral(const NeutralOptions& o) {
    const cv::Rect area = area_of(o.area);
    json out = json::array();
    std::vector<std::string> problems;
    for (const std::string& frame : o.frames) {
        try {
            const NeutralArea n = neutral_of_area(read_raw(std::filesystem::path(frame)), area);
            out.push_back({{"frame", frame},
                           {"kelvin", n.light.kelvin},
                           {"tint", n.light.tint},
                           {"warmth_offset", offset_json(n.warmth)},
                           {"tint_offset", offset_json(n.tint)},
                           {"camera", n.neutral},
                           {"missed_percent", 100 * n.missed}});
            if (!o.json)
                fmt::print(
                    "{}: warmth {:+.1f} ± {:.1f} MK⁻¹, tint {:+.1f} ± {:.1f} over what it records ({:.0f} K, "
                    "tint {:+.0f})\n",
                    printable(frame), n.warmth.value, n.warmth.sigma, n.tint.value, n.tint.sigma, n.light.kelvin,
                    n.light.tint);
            if (n.missed > 0.01)
                fmt::print(stderr,
                           "{}: no temperature and tint make this area grey; {:.0f} % of red or blue remain. The body "
                           "may see infrared: its colours are outside those of a chart.\n",
                           printable(frame), 100 * n.missed);
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
    command->add_option("--area", o->area, "The area that is to be grey: left, top, width, height in px")->required();
    command->add_flag("--json", o->json, "Print JSON");
    command->callback([o] { neutral(*o); });
}

}  // namespace optrel::cli
