// SPDX-License-Identifier: GPL-3.0-or-later
// Paths inside stored documents: claims, selections and runs of bodies name folders and frames, film rules have
// patterns of paths. They are converted like the paths of frames (roots.h), so that they are valid at every station.
#pragma once

#include <string>

namespace optrel {

class Engine;

/// Converts all paths of a document to the form that the store keeps, and back. Paths are texts (base/path_text.h).
std::string with_kept_paths(const Engine& engine, const std::string& document);
std::string with_paths_here(const Engine& engine, const std::string& document);

/// The same for a pattern, when it begins with a folder.
std::string kept_pattern(const Engine& engine, const std::string& pattern);
std::string pattern_here(const Engine& engine, const std::string& pattern);

/// Tables and columns with such documents or patterns.
struct PathDocuments {
    const char *table, *key, *column, *stamp;
    bool pattern;
};
inline constexpr PathDocuments path_documents[] = {{"claims", "id", "document", "fleet", false},
                                                   {"selections", "name", "document", "selections", false},
                                                   {"film_rules", "pattern", "pattern", "film_rules", true},
                                                   {"body_runs", "id", "document", "runs", false}};

/// Converts the documents of a table again, after a root got a folder at this station.
void rewrite_paths(Engine& engine, const PathDocuments& documents);

}  // namespace optrel
