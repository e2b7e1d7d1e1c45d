// SPDX-License-Identifier: GPL-3.0-or-later
// Sums over the results of portions.
#pragma once

#include <fmt/format.h>

#include <map>
#include <nlohmann/json.hpp>
#include <string>
#include <vector>

namespace optrel {

/// Sum of a number over all results.
inline long long sum(const std::vector<nlohmann::json>& results, const char* of) {
    long long out = 0;
    for (const nlohmann::json& r : results) out += r.value(of, 0ll);
    return out;
}

/// Sums by name of an object of counts.
inline std::map<std::string, long long> counts(const std::vector<nlohmann::json>& results, const char* of) {
    std::map<std::string, long long> out;
    for (const nlohmann::json& r : results)
        if (r.contains(of))
            for (const auto& [name, n] : r.at(of).items()) out[name] += n.get<long long>();
    return out;
}

/// Adds all texts of a list.
inline void sentences(const std::vector<nlohmann::json>& results, const char* of, std::vector<std::string>& lines) {
    for (const nlohmann::json& r : results)
        if (r.contains(of))
            for (const std::string line : r.at(of)) lines.push_back(line);
}

/// "1 file", "3 files".
inline std::string counted(long long n, const char* one, const char* many) {
    return fmt::format("{} {}", n, n == 1 ? one : many);
}

}  // namespace optrel
