// SPDX-License-Identifier: GPL-3.0-or-later
#include "rollout/packed_plan.h"

#include <fmt/format.h>

#include <map>
#include <nlohmann/json.hpp>
#include <string_view>
#include <unordered_map>

#include "base/error.h"
#include "base/json_text.h"
#include "base/path_text.h"

namespace optrel {

using nlohmann::json;

// Written line by line: a JSON document in memory would be many times as large.
PackedPlan pack(const std::vector<RolloutEntry>& entries) {
    std::string plan = "{\n \"frames\": [", data;
    // Each distinct text once.
    std::unordered_map<std::string_view, std::size_t> places;
    const auto keep = [&](const std::string& bytes) {
        const auto [at, fresh] = places.try_emplace(bytes, data.size());
        if (fresh) data += bytes;
        return fmt::format("[{},{}]", at->second, bytes.size());
    };
    const char* between = "\n  ";
    for (const RolloutEntry& e : entries) {
        const std::string before = e.before ? keep(*e.before) : "null", after = e.after ? keep(*e.after) : "null";
        plan += between + fmt::format("{{\"frame\":{},\"before\":{},\"after\":{}}}",
                                      json_text(path_to_text(e.frame.string())), before, after);
        between = ",\n  ";
    }
    return {plan + "\n ]\n}", data};
}

std::vector<RolloutEntry> unpack(const PackedPlan& packed) {
    const std::string& data = packed.data;
    std::vector<RolloutEntry> entries;
    std::map<std::pair<std::size_t, std::size_t>, SharedText> pieces;
    const auto piece = [&](const json& at) {
        const auto from = at.at(0).get<std::size_t>(), length = at.at(1).get<std::size_t>();
        if (from > data.size() || length > data.size() - from) throw input_error("its data end too early");
        const auto [it, fresh] = pieces.try_emplace({from, length});
        if (fresh) it->second = data.substr(from, length);
        return it->second;
    };
    const auto take = [&](const json& j) {
        RolloutEntry e;
        e.frame = path_from_text(j.at("frame").get<std::string>());
        if (!j.at("before").is_null()) e.before = piece(j.at("before"));
        if (!j.at("after").is_null()) e.after = piece(j.at("after"));
        entries.push_back(std::move(e));
    };
    // Each frame is removed from the document after parsing, to save memory.
    constexpr int frame_depth = 2;
    const json rest = parse_json(packed.plan, "plan.json", [&](int depth, json::parse_event_t event, json& parsed) {
        if (event != json::parse_event_t::object_end || depth != frame_depth) return true;
        take(parsed);
        return false;
    });
    if (!rest.at("frames").is_array() || !rest.at("frames").empty()) throw input_error("it lists no frames");
    return entries;
}

}  // namespace optrel
