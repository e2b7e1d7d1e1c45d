// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/document_paths.h"

#include <fmt/format.h>

#include <functional>
#include <nlohmann/json.hpp>
#include <utility>
#include <vector>

#include "base/json_text.h"
#include "base/path_text.h"
#include "store/engine.h"

namespace optrel {
namespace {

using nlohmann::json;

/// Applies a conversion to each path of a document.
std::string with_paths(const std::string& document, const std::function<std::string(const std::string&)>& turned) {
    json j = parse_json(document, "A document of the store");
    bool any = false;
    const auto turn = [&](json& path) {
        if (!path.is_string()) return;
        const std::string before = path, after = turned(before);
        any = any || after != before;
        path = after;
    };
    if (!j.is_object()) return document;
    if (const auto folder = j.find("folder"); folder != j.end()) turn(*folder);
    for (const char* list : {"folders", "frames"})
        if (const auto found = j.find(list); found != j.end() && found->is_array())
            for (json& path : *found) turn(path);
    return any ? json_text(j) : document;
}

}  // namespace

std::string with_kept_paths(const Engine& engine, const std::string& document) {
    return with_paths(document, [&](const std::string& path) { return text(engine.kept(path_from_text(path))); });
}

std::string with_paths_here(const Engine& engine, const std::string& document) {
    return with_paths(document,
                      [&](const std::string& path) { return path_to_text(engine.here(text(path)).native()); });
}

std::string kept_pattern(const Engine& engine, const std::string& pattern) { return text(engine.kept(pattern)); }

std::string pattern_here(const Engine& engine, const std::string& pattern) {
    return engine.here(text(pattern)).string();
}

void rewrite_paths(Engine& engine, const PathDocuments& d) {
    std::vector<std::pair<QVariant, std::string>> renewed;
    QSqlQuery q = engine.run(fmt::format("SELECT {}, {} FROM {}", d.key, d.column, d.table));
    while (q.next()) {
        const std::string before = text(q.value(1));
        std::string after;
        try {
            after = d.pattern ? text(engine.kept(path_from_text(before))) : with_kept_paths(engine, before);
        } catch (const Error&) {
            // On a server, anybody who works here can write a row that cannot be read; roots are still placed.
            continue;
        }
        if (after != before) renewed.emplace_back(q.value(0), after);
    }
    for (const auto& [key, document] : renewed) {
        // Another station may have saved the same pattern under its root already.
        if (d.pattern) engine.run(fmt::format("DELETE FROM {} WHERE {} = ?", d.table, d.key), {text(document)});
        engine.run(fmt::format("UPDATE {} SET {} = ? WHERE {} = ?", d.table, d.column, d.key), {text(document), key});
    }
    if (!renewed.empty()) engine.stamp(d.stamp);
}

}  // namespace optrel
