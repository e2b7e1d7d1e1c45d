// SPDX-License-Identifier: GPL-3.0-or-later
// Paths within documents that the store keeps: claims and selections name folders and frames, rules for films patterns
// of paths. They are kept as those of frames are (roots.h), so that they hold at every station.
#pragma once

#include <string>

namespace optrel {

class Engine;

/// A document as it is kept, and as this station sees it. In both, paths are texts (base/path_text.h).
std::string with_kept_paths(const Engine& engine, const std::string& document);
std::string with_paths_here(const Engine& engine, const std::string& document);

/// A pattern of paths the same way: what it begins with is a folder, or it names none.
std::string kept_pattern(const Engine& engine, const std::string& pattern);
std::string pattern_here(const Engine& engine, const std::string& pattern);

/// Where such documents, or patterns, stand.
struct PathDocuments {
    const char *table, *key, *column, *stamp;
    bool pattern;
};
inline constexpr PathDocuments path_documents[] = {{"claims", "id", "document", "fleet", false},
                                                   {"selections", "name", "document", "selections", false},
                                                   {"film_rules", "pattern", "pattern", "film_rules", true}};

/// Keeps those of a table anew: a root has a folder here that it had not before.
void rewrite_paths(Engine& engine, const PathDocuments& documents);

}  // namespace optrel
