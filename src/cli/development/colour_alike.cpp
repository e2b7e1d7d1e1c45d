// SPDX-License-Identifier: GPL-3.0-or-later
// optrel-cli colour alike: pins that make bodies render alike.
#include <fmt/format.h>

#include "base/error.h"
#include "base/figure_text.h"
#include "base/station.h"
#include "base/words.h"
#include "cli/commands.h"
#include "cli/development/colour_measure.h"
#include "studio/baselines/naming.h"
#include "studio/development/alike_bodies.h"

namespace optrel::cli {
namespace {

using nlohmann::json;

struct AlikeOptions {
    std::string store, reference;
    std::vector<std::string> bodies;
    AlikeLimit limit;
    double kelvin = 5003;
    bool pin = false, json = false;
};

json spread_json(const Spread& s) { return {{"mean_de2000", s.mean}, {"p95_de2000", s.p95}}; }
json figure_json(const ColourFigure& f) { return {{"value", f.value}, {"sigma", f.sigma}}; }

json pins_json(const AlikePins& p) {
    return {{"exposure_ev", p.exposure ? figure_json(p.exposure_ev) : json()},
            {"warmth_offset", p.neutral ? figure_json(p.warmth) : json()},
            {"tint_offset", p.neutral ? figure_json(p.tint) : json()},
            {"colour_file", p.colour_file},
            {"before", spread_json(p.before)},
            {"after", spread_json(p.after)},
            {"reached", p.reached}};
}

json result_json(const AlikeResult& r) {
    json bodies = json::array();
    for (const BodyAlike& b : r.bodies) {
        json spans = json::array();
        for (const AlikeSpan& s : b.spans) {
            json j = pins_json(s.pins);
            j["first_iso"] = s.first_iso;
            j["last_iso"] = s.last_iso;
            spans.push_back(std::move(j));
        }
        bodies.push_back({{"body", b.body},
                          {"measured", to_string(b.measured)},
                          {"kelvin", b.kelvin},
                          {"spans", spans},
                          {"outside_chart", b.outside_chart}});
    }
    return {{"bodies", bodies},
            {"spread_before", spread_json(r.before)},
            {"spread_after", spread_json(r.after)},
            {"problems", r.problems}};
}

std::string pins_in_words(const AlikePins& p) {
    if (!p.exposure && !p.neutral && !p.colour_file) return "needs nothing";
    std::string out;
    if (p.exposure)
        out += "exposure " + figure_text(figures::exposure, p.exposure_ev.value, p.exposure_ev.sigma) + "  ";
    if (p.neutral)
        out += fmt::format("warmth {}  tint {}  ", figure_text(figures::warmth, p.warmth.value, p.warmth.sigma),
                           figure_text(figures::tint, p.tint.value, p.tint.sigma));
    if (p.colour_file) out += "a colour file of its own  ";
    return out;
}

void print_result(const AlikeResult& r) {
    const auto shown = [](double difference) { return number_text(figures::colour_difference, difference); };
    for (const BodyAlike& b : r.bodies) {
        fmt::print("{} ({}, light of {})\n", printable(b.body), to_string(b.measured),
                   figure_text(figures::temperature, b.kelvin));
        if (b.outside_chart)
            fmt::print("  sees infrared: its colours are outside those of a chart; only exposure and neutral count\n");
        for (const AlikeSpan& s : b.spans)
            fmt::print("  ISO {} to {}: {}\n    dE2000 {} (95 percent {}) before, {} ({}) after{}\n", s.first_iso,
                       s.last_iso, pins_in_words(s.pins), shown(s.pins.before.mean), shown(s.pins.before.p95),
                       shown(s.pins.after.mean), shown(s.pins.after.p95),
                       s.pins.reached ? "" : "; the limit is not reached");
    }
}

void alike(const AlikeOptions& o) {
    Store store = open_store(o.store, o.pin ? Access::write : Access::read);
    const Naming naming(store);
    AlikeRequest request;
    request.limit = o.limit;
    request.kelvin = o.kelvin;
    if (o.reference != "chart") request.reference = naming.body(o.reference);
    for (const std::string& body : o.bodies) request.bodies.push_back(naming.body(body));
    const AlikeResult result = propose_alike(store, request);
    if (o.json)
        print_json(result_json(result));
    else
        print_result(result);
    if (o.pin) {
        std::vector<std::optional<Value>> files;
        for (const BodyAlike& body : result.bodies)
            files.push_back(put_colour_file(store, body, request.reference, current_author()));
        store.baselines().change_draft([&](Revision& draft) {
            for (std::size_t i = 0; i < files.size(); ++i) pin_alike(draft, result.bodies[i], files[i]);
        });
        if (!o.json) fmt::print("Pinned in the draft; publish it to make it count.\n");
    }
    fail_with(result.problems);
}

}  // namespace

void add_colour_alike(CLI::App& colour) {
    auto o = std::make_shared<AlikeOptions>();
    auto* command = add_command(colour, "alike",
                                "Propose the fewest pins of each body and ISO that make bodies render the chart alike",
                                "colour alike --store studio --reference HB-014 --bodies HB-015 HB-016");
    add_store_option(*command, o->store);
    command
        ->add_option(
            "--reference", o->reference,
            "The body that others are to match, by a name or number of the register; or chart, for the chart's "
            "own values")
        ->required();
    command->add_option("--bodies", o->bodies, "Bodies to compare, by names or numbers of the register")->required();
    command->add_option("--limit-mean", o->limit.mean, "Largest mean difference, dE2000")
        ->check(between(0.05, 50))
        ->capture_default_str();
    command->add_option("--limit-p95", o->limit.p95, "Largest difference of 95 percent of the patches, dE2000")
        ->check(between(0.05, 100))
        ->capture_default_str();
    command->add_option("--kelvin", o->kelvin, "The light that counts, where bodies were measured in several")
        ->check(between(1000, 25000))
        ->capture_default_str();
    command->add_flag("--pin", o->pin,
                      "Pin exposure, warmth, tint and colour files in the draft, in the tiers of the bodies");
    command->add_flag("--json", o->json, "Print JSON");
    command->callback([o] { alike(*o); });
}

}  // namespace optrel::cli
