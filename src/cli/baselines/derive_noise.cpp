// SPDX-License-Identifier: GPL-3.0-or-later
#include <fmt/format.h>

#include "base/error.h"
#include "base/figure_text.h"
#include "base/words.h"
#include "cli/commands.h"
#include "sensor/noise_kind.h"
#include "studio/baselines/references.h"
#include "studio/development/noise_ramp.h"

namespace optrel::cli {
namespace {

using nlohmann::json;

struct DeriveOptions {
    std::string store, measurement;
    NoiseLimit limit;
    bool pin = false, json = false;
};

json seen_json(const SeenNoise& s) {
    return {{"sd_lightness", s.lightness},
            {"sd_colour", s.colour},
            {"mtf50_cycles_per_px", s.mtf50},
            {"texture_left", s.texture}};
}

json ramp_json(const NoiseRamp& ramp) {
    json points = json::array();
    const auto change = [](double without, double with) { return change_text(figures::lab_deviation, without, with); };
    const auto share = [](double of_one) { return number_text(figures::share, 100 * of_one); };
    for (const NoiseRampPoint& p : ramp.points)
        points.push_back({{"iso", p.iso},
                          {"luminance", p.need.luminance},
                          {"colour", p.need.colour},
                          {"reached", p.need.reached},
                          {"without", seen_json(p.need.without)},
                          {"with", seen_json(p.need.with)},
                          {"pinned_luminance", p.pinned_luminance},
                          {"pinned_colour", p.pinned_colour},
                          {"pinned", seen_json(p.pinned)}});
    return {{"measured", to_string(ramp.measured)},
            {"body", ramp.body},
            {"model", ramp.model},
            {"limit",
             {{"sd_lightness", ramp.limit.lightness},
              {"sd_colour", ramp.limit.colour},
              {"longest_side", ramp.limit.longest_side}}},
            {"points", points},
            {"luminance_ramp", describe(Field::luminance_noise, ramp.luminance)},
            {"colour_ramp", describe(Field::colour_noise, ramp.colour)},
            {"tier", describe_conditions(tier_of(ramp))},
            {"reason", ramp.reason},
            {"serves_already", ramp.serves_already},
            {"unreached", ramp.unreached}};
}

void print_ramp(const NoiseRamp& ramp) {
    fmt::print("{:>6} {:>10} {:>8} {:>22} {:>22} {:>14} {:>12} {:>18}\n", "ISO", "luminance", "colour",
               "sd L* without, with", "sd a*b* without, with", "MTF50 left, %", "texture, %", "pinned now");
    const auto change = [](double without, double with) { return change_text(figures::lab_deviation, without, with); };
    const auto share = [](double of_one) { return number_text(figures::share, 100 * of_one); };
    for (const NoiseRampPoint& p : ramp.points)
        fmt::print("{:>6g} {:>10g} {:>8g} {:>22} {:>22} {:>14} {:>12} {:>11g}, {:g}\n", p.iso, p.need.luminance,
                   p.need.colour, change(p.need.without.lightness, p.need.with.lightness),
                   change(p.need.without.colour, p.need.with.colour),
                   share(p.need.with.mtf50 / std::max(1e-9, p.need.without.mtf50)), share(p.need.with.texture),
                   p.pinned_luminance, p.pinned_colour);
    fmt::print("Luminance NR  {}\nColour NR     {}\n", describe(Field::luminance_noise, ramp.luminance),
               describe(Field::colour_noise, ramp.colour));
    fmt::print("Tier: {}. {}\n", printable(describe_conditions(tier_of(ramp))), printable(ramp.reason));
    if (ramp.serves_already) fmt::print("What is pinned now serves already.\n");
    for (const double iso : ramp.unreached)
        fmt::print("At ISO {:g} no strength meets the limit; allow more noise, or a smaller output.\n", iso);
}

void derive(const DeriveOptions& o) {
    Store store = open_store(o.store, o.pin ? Access::write : Access::read);
    const Measurement m = measurement_named(store, o.measurement);
    const NoiseRamp ramp = derive_noise_ramp(store, m, store.baselines().draft(), o.limit, console_progress());
    if (o.json)
        print_json(ramp_json(ramp));
    else
        print_ramp(ramp);
    if (!o.pin) return;
    store.baselines().change_draft([&](Revision& draft) { pin_noise_ramp(draft, ramp); });
    if (!o.json) fmt::print("Pinned in the draft; publish it to make it count.\n");
}

}  // namespace

void add_derive_noise(CLI::App& baseline) {
    auto o = std::make_shared<DeriveOptions>();
    auto* command = add_command(baseline, "derive-noise",
                                "Derive noise reduction over ISO from the measured noise of a body: the least that "
                                "brings a grey patch under a limit",
                                "baseline derive-noise --measurement n1a2b3c4@1 --lightness 1 --pin");
    add_store_option(*command, o->store);
    command
        ->add_option("--measurement", o->measurement,
                     "Noise measurement, as ID@VERSION, or its ID for the current version")
        ->required();
    command->add_option("--lightness", o->limit.lightness, "Largest standard deviation of L* in the patch")
        ->check(CLI::Range(0.01, 20.0))
        ->capture_default_str();
    command->add_option("--colour", o->limit.colour, "Largest standard deviation of a* and of b*")
        ->check(CLI::Range(0.01, 20.0))
        ->capture_default_str();
    command->add_option("--longest-side", o->limit.longest_side,
                        "Output size at which the noise is judged, px [default: that of the frames]");
    command->add_flag("--pin", o->pin, "Pin both ramps in the draft, in the tier of the body or of its model");
    command->add_flag("--json", o->json, "Print JSON");
    command->callback([o] { derive(*o); });
}

}  // namespace optrel::cli
