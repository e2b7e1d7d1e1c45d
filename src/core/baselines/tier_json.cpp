#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>
#include <set>

#include "base/error.h"
#include "baselines/tier.h"

namespace optrel {
namespace {

using nlohmann::json;
constexpr int format_version = 1;

const char* scope_names[] = {"studio", "model", "body"};
const char* lens_names[] = {"any", "model", "copy"};

template <class Enum, std::size_t n>
Enum named(const char* const (&names)[n], const std::string& text, const char* what) {
    for (std::size_t i = 0; i < n; ++i)
        if (text == names[i]) return static_cast<Enum>(i);
    throw input_error(fmt::format("it has the {} '{}'", what, text));
}

json pin_to_json(Field field, const Pin& pin) {
    if (!pin.is_ramp()) return to_text(field, pin.knots.front().second);
    json knots = json::array();
    for (const auto& [iso, value] : pin.knots) knots.push_back({{"iso", iso}, {"value", to_text(field, value)}});
    return {{"ramp", knots}};
}

Pin pin_from_json(Field field, const json& j) {
    if (j.is_string()) return Pin::constant(value_from_text(field, j.get<std::string>()));
    Pin pin;
    for (const json& k : j.at("ramp")) {
        const double iso = k.at("iso");
        if (!(iso > 0)) throw input_error("a ramp has a knot at an ISO that is not positive");
        pin.knots.emplace_back(iso, value_from_text(field, k.at("value").get<std::string>()));
    }
    if (pin.knots.empty()) throw input_error("a ramp has no knot");
    std::stable_sort(pin.knots.begin(), pin.knots.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
    for (std::size_t i = 1; i < pin.knots.size(); ++i)
        if (pin.knots[i].first == pin.knots[i - 1].first) throw input_error("a ramp has two knots at one ISO");
    return pin;
}

json tier_to_json(const Tier& t) {
    json pins = json::object();
    for (const auto& [field, pin] : t.pins) pins[info(field).id] = pin_to_json(field, pin);
    json out = {{"id", t.id}, {"name", t.name}, {"scope", scope_names[static_cast<int>(t.scope)]}, {"pins", pins}};
    if (t.scope != Scope::studio) out["target"] = t.target;
    if (t.lens_condition != LensCondition::any) out["lens"] = {{"match", lens_names[static_cast<int>(t.lens_condition)]}, {"lens", t.lens}};
    if (t.iso_span) out["iso"] = {t.iso_span->first, t.iso_span->second};
    if (!t.raw || t.rendered) out["kinds"] = t.raw ? json{"raw", "rendered"} : json{"rendered"};
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
        if (!(t.iso_span->first > 0 && t.iso_span->second >= t.iso_span->first)) throw input_error(fmt::format("the tier '{}' has an empty ISO span", t.name));
    }
    if (j.contains("kinds")) {
        t.raw = t.rendered = false;
        for (const json& kind : j["kinds"]) {
            if (kind == "raw") t.raw = true;
            if (kind == "rendered") t.rendered = true;
        }
    }
    for (const auto& [id, pin] : j.at("pins").items()) {
        const Field field = field_by_id(id);
        t.pins[field] = pin_from_json(field, pin);
    }
    return t;
}

}  // namespace

std::string revision_to_json(const Revision& r) {
    json tiers = json::array();
    for (const Tier& t : r.tiers) tiers.push_back(tier_to_json(t));
    const json out = {{"format", "optrel-baseline"}, {"format_version", format_version}, {"number", r.number}, {"author", r.author},
                      {"time", r.time},              {"note", r.note},                   {"tiers", tiers}};
    return out.dump(1) + "\n";
}

Revision revision_from_json(const std::string& text, const std::string& where) {
    try {
        const json j = json::parse(text);
        if (!j.is_object() || j.value("format", "") != "optrel-baseline") throw input_error("it is not a baseline that Optrel wrote");
        if (j.value("format_version", 0) > format_version) throw input_error(fmt::format("its format {} is newer than this program reads ({}); update Optrel", j.value("format_version", 0), format_version));
        Revision r;
        r.number = j.value("number", 0);
        r.author = j.value("author", "");
        r.time = j.value("time", "");
        r.note = j.value("note", "");
        std::set<std::string> ids;
        for (const json& t : j.at("tiers")) {
            r.tiers.push_back(tier_from_json(t));
            if (!ids.insert(r.tiers.back().id).second) throw input_error(fmt::format("two tiers have the id '{}'", r.tiers.back().id));
        }
        return r;
    } catch (const json::exception& error) {
        throw input_error(fmt::format("The baseline in {} cannot be read: it is damaged ({}); restore the file from a copy.", where, error.what()));
    } catch (const Error& error) {
        std::string why = error.what();
        if (!why.empty() && why.back() == '.') why.pop_back();
        throw input_error(fmt::format("The baseline in {} cannot be used: {}.", where, why));
    }
}

}  // namespace optrel
