// SPDX-License-Identifier: GPL-3.0-or-later
// Sums over the results of portions.
#pragma once

#include <map>
#include <nlohmann/json.hpp>
#include <string>
#include <vector>

namespace optrel {

/// Sum of the number `of` over all results; a result without it counts as 0.
inline long long sum(const std::vector<nlohmann::json>& results, const char* of) {
    long long out = 0;
    for (const nlohmann::json& r : results) out += r.value(of, 0ll);
    return out;
}

/// Adds up the counts in the object `of` by their names.
inline std::map<std::string, long long> counts(const std::vector<nlohmann::json>& results, const char* of) {
    std::map<std::string, long long> out;
    for (const nlohmann::json& r : results)
        if (r.contains(of))
            for (const auto& [name, n] : r.at(of).items()) out[name] += n.get<long long>();
    return out;
}

/// Appends all texts of the list `of`.
inline void sentences(const std::vector<nlohmann::json>& results, const char* of, std::vector<std::string>& lines) {
    for (const nlohmann::json& r : results)
        if (r.contains(of))
            for (const std::string line : r.at(of)) lines.push_back(line);
}

}  // namespace optrel
