// SPDX-License-Identifier: GPL-3.0-or-later
#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>
#include <set>

#include "base/error.h"
#include "base/json_text.h"
#include "base/words.h"
#include "baselines/tier.h"

namespace optrel {
namespace {

using nlohmann::json;
/// 2: sets, and what the register adds to the start "as recorded". 3: pins that name a measurement.
constexpr int format_version = 3;

const char* scope_names[] = {"studio", "model", "body"};
const char* lens_names[] = {"any", "model", "copy"};

template <class Enum, std::size_t n>
Enum named(const char* const (&names)[n], const std::string& text, const char* what) {
    for (std::size_t i = 0; i < n; ++i)
        if (text == names[i]) return static_cast<Enum>(i);
    throw input_error(fmt::format("it has the {} '{}'", what, text));
}

json pin_to_json(Field field, const Pin& pin) {
    if (!pin.is_ramp() && !pin.measured) return to_text(field, pin.knots.front().second);
    json out = json::object();
    if (pin.is_ramp()) {
        out["ramp"] = json::array();
        for (const auto& [iso, value] : pin.knots)
            out["ramp"].push_back({{"iso", iso}, {"value", to_text(field, value)}});
    } else {
        out["value"] = to_text(field, pin.knots.front().second);
    }
    if (pin.measured) out["measured"] = to_string(*pin.measured);
    return out;
}

Pin pin_from_json(Field field, const json& j) {
    if (j.is_string()) return Pin::constant(value_from_text(field, j.get<std::string>()));
    Pin pin;
    if (j.contains("measured")) pin.measured = measurement_reference(j["measured"].get<std::string>());
    if (j.contains("value")) {
        if (j.contains("ramp")) throw input_error("a pin has both a value and a ramp");
        pin.knots = Pin::constant(value_from_text(field, j["value"].get<std::string>())).knots;
        return pin;
    }
    for (const json& k : j.at("ramp")) {
        const double iso = k.at("iso");
        if (!(iso > 0 && iso < 1e8)) throw input_error("a ramp has a knot at an ISO that is not positive");
        pin.knots.emplace_back(iso, value_from_text(field, k.at("value").get<std::string>()));
    }
    if (pin.knots.empty()) throw input_error("a ramp has no knot");
    std::stable_sort(pin.knots.begin(), pin.knots.end(),
                     [](const auto& a, const auto& b) { return a.first < b.first; });
    for (std::size_t i = 1; i < pin.knots.size(); ++i)
        if (pin.knots[i].first == pin.knots[i - 1].first) throw input_error("a ramp has two knots at one ISO");
    return pin;
}

json pins_json(const Pins& pins) {
    json out = json::object();
    for (const auto& [field, pin] : pins) out[info(field).id] = pin_to_json(field, pin);
    return out;
}

Pins pins_of(const json& j) {
    Pins out;
    for (const auto& [id, pin] : j.items()) {
        const Field field = field_by_id(id);
        out[field] = pin_from_json(field, pin);
    }
    return out;
}

json tier_to_json(const Tier& t) {
    json out = {
        {"id", t.id}, {"name", t.name}, {"scope", scope_names[static_cast<int>(t.scope)]}, {"pins", pins_json(t.pins)}};
    if (t.scope != Scope::studio) out["target"] = t.target;
    if (t.lens_condition != LensCondition::any)
        out["lens"] = {{"match", lens_names[static_cast<int>(t.lens_condition)]}, {"lens", t.lens}};
    if (t.iso_span) out["iso"] = {t.iso_span->first, t.iso_span->second};
    if (!t.raw || t.rendered) out["kinds"] = t.raw ? json{"raw", "rendered"} : json{"rendered"};
    if (!t.sets.empty()) out["sets"] = t.sets;
    if (!t.origin.empty()) out["taken_in_from"] = t.origin;
    return out;
}

Tier tier_from_json(const json& j) {
    Tier t;
    t.id = j.at("id");
    t.name = j.value("name", t.id);
    t.scope = named<Scope>(scope_names, j.at("scope").get<std::string>(), "scope");
    if (t.scope != Scope::studio) t.target = j.at("target");
    if (j.contains("lens")) {
        t.lens_condition = named<LensCondition>(lens_names, j["lens"].at("match").get<std::string>(), "lens condition");
        t.lens = j["lens"].at("lens");
    }
    if (j.contains("iso")) {
        t.iso_span = {j["iso"].at(0).get<double>(), j["iso"].at(1).get<double>()};
        if (!(t.iso_span->first > 0 && t.iso_span->second >= t.iso_span->first && t.iso_span->second < 1e8))
            throw input_error(fmt::format("the tier '{}' has an empty ISO span", t.name));
    }
    if (j.contains("kinds")) {
        t.raw = t.rendered = false;
        for (const json& kind : j["kinds"]) {
            if (kind == "raw") t.raw = true;
            if (kind == "rendered") t.rendered = true;
        }
    }
    if (j.contains("sets")) t.sets = j["sets"].get<std::vector<std::string>>();
    t.pins = pins_of(j.at("pins"));
    t.origin = j.value("taken_in_from", "");
    return t;
}

json set_to_json(const PinSet& s) {
    json out = {{"name", s.name}, {"pins", pins_json(s.pins)}};
    if (!s.note.empty()) out["note"] = s.note;
    if (!s.sets.empty()) out["sets"] = s.sets;
    if (!s.origin.empty()) out["taken_in_from"] = s.origin;
    return out;
}

std::vector<PinSet> sets_of(const json& list) {
    std::vector<PinSet> out;
    std::set<std::string> names;
    for (const json& j : list) {
        PinSet s;
        s.name = j.at("name");
        check_set_name(s.name);
        if (!names.insert(s.name).second) throw input_error(fmt::format("two sets have the name '{}'", s.name));
        s.note = j.value("note", "");
        if (j.contains("sets")) s.sets = j["sets"].get<std::vector<std::string>>();
        s.pins = pins_of(j.at("pins"));
        s.origin = j.value("taken_in_from", "");
        out.push_back(std::move(s));
    }
    return out;
}

/// Runs a reader and turns whatever it throws into one sentence about the document.
template <class Read>
auto reading(const char* what, const std::string& where, const Read& read) {
    try {
        return read();
    } catch (const json::exception& error) {
        throw input_error(fmt::format("The {} in {} cannot be read: it is damaged ({}); restore the file from a copy.",
                                      what, where, error.what()));
    } catch (const Error& error) {
        throw input_error(fmt::format("The {} in {} cannot be used: {}.", what, where, without_stop(error.what())));
    }
}

/// The text, once it has been read back as what it was made from: what cannot be read is never kept.
template <class T, class Read>
std::string read_back(const T& from, const std::string& text, const Read& read) {
    if (!(read(text) == from))
        throw input_error(
            fmt::format("'{}' would not read back as it is, so it was not kept; check its values.", from.name));
    return text;
}

json parsed(const std::string& text, const char* format, const char* what) {
    const json j = parse_json(text, "it");
    if (!j.is_object() || j.value("format", "") != format)
        throw input_error(fmt::format("it is not a {} that Optrel wrote", what));
    if (j.value("format_version", 0) > format_version)
        throw input_error(fmt::format("its format {} is newer than this program reads ({}); update Optrel",
                                      j.value("format_version", 0), format_version));
    return j;
}

}  // namespace

/// The oldest format that can represent a revision, so that older programs read all that they can.
static int format_of(const Revision& r) {
    const auto refers = [](const auto& list) {
        return std::any_of(list.begin(), list.end(), [](const auto& entry) {
            return std::any_of(entry.pins.begin(), entry.pins.end(),
                               [](const auto& pin) { return pin.second.measured.has_value(); });
        });
    };
    return refers(r.tiers) || refers(r.sets) ? format_version : 2;
}

std::string revision_to_json(const Revision& r) {
    json tiers = json::array(), sets = json::array(), recorded = json::object();
    for (const Tier& t : r.tiers) tiers.push_back(tier_to_json(t));
    for (const PinSet& s : r.sets) sets.push_back(set_to_json(s));
    for (const auto& [model, pins] : r.recorded_adds) recorded[model] = pins_json(pins);
    json out = {{"format", "optrel-baseline"},
                {"format_version", format_of(r)},
                {"number", r.number},
                {"author", r.author},
                {"time", r.time},
                {"note", r.note},
                {"tiers", tiers}};
    if (!sets.empty()) out["sets"] = sets;
    if (!recorded.empty()) out["recorded_adds"] = recorded;
    if (!r.profiles_as_of.empty()) out["profiles_as_of"] = r.profiles_as_of;
    return json_text(out, 1) + "\n";
}

Revision revision_from_json(const std::string& text, const std::string& where) {
    return reading("baseline", where, [&] {
        const json j = parsed(text, "optrel-baseline", "baseline");
        Revision r;
        r.number = j.value("number", 0);
        r.author = j.value("author", "");
        r.time = j.value("time", "");
        r.note = j.value("note", "");
        std::set<std::string> ids;
        for (const json& t : j.at("tiers")) {
            r.tiers.push_back(tier_from_json(t));
            if (!ids.insert(r.tiers.back().id).second)
                throw input_error(fmt::format("two tiers have the id '{}'", r.tiers.back().id));
        }
        if (j.contains("sets")) r.sets = sets_of(j["sets"]);
        if (j.contains("recorded_adds"))
            for (const auto& [model, pins] : j["recorded_adds"].items()) r.recorded_adds[model] = pins_of(pins);
        r.profiles_as_of = j.value("profiles_as_of", "");
        check_sets(r);
        return r;
    });
}

std::string sets_to_json(const std::vector<PinSet>& sets) {
    json list = json::array();
    for (const PinSet& s : sets) list.push_back(set_to_json(s));
    Revision alone;
    alone.sets = sets;
    return json_text({{"format", "optrel-sets"}, {"format_version", format_of(alone)}, {"sets", list}}, 1) + "\n";
}

std::vector<PinSet> sets_from_json(const std::string& text, const std::string& where) {
    return reading("list of sets", where, [&] {
        const json j = parsed(text, "optrel-sets", "list of sets");
        Revision alone;
        alone.sets = sets_of(j.at("sets"));
        check_sets(alone);
        return alone.sets;
    });
}

std::string tier_to_text(const Tier& tier) {
    return read_back(tier, json_text(tier_to_json(tier)),
                     [](const std::string& text) { return tier_from_text(text, "the tier"); });
}
Tier tier_from_text(const std::string& text, const std::string& where) {
    return reading("tier", where, [&] {
        const json j = parse_json(text, "it");
        return tier_from_json(j);
    });
}

std::string set_to_text(const PinSet& set) {
    return read_back(set, json_text(set_to_json(set)),
                     [](const std::string& text) { return set_from_text(text, "the set"); });
}
PinSet set_from_text(const std::string& text, const std::string& where) {
    return reading("set", where, [&] { return sets_of(json::array({parse_json(text, "it")})).front(); });
}

std::string pins_to_json(const Pins& pins) { return json_text(pins_json(pins)); }
Pins pins_from_json(const std::string& text, const std::string& where) {
    return reading("list of pins", where, [&] {
        const json j = parse_json(text, "it");
        if (!j.is_object()) throw input_error("it is no list of fields and values");
        return pins_of(j);
    });
}

}  // namespace optrel
