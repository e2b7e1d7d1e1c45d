// SPDX-License-Identifier: GPL-3.0-or-later
// What films do not say of themselves, as a person said it for a folder or for names of one shape.
#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

namespace optrel {

class Engine;

struct FilmRule {
    std::string pattern;  ///< of paths, with * and ?: "/shoots/north/*", "*_B2_*.mov"
    std::string profile;  ///< id of a lens profile; empty: none
    double focal_mm = 0;
    double area_width_mm = 0;  ///< width of the part of the sensor that was recorded
    std::string body;          ///< for people
    std::string author, time;
};

class StoredFilmRules {
public:
    explicit StoredFilmRules(Engine& engine) : engine_(engine) {}

    /// By pattern.
    std::vector<FilmRule> all();
    /// Replaces that of the same pattern. Throws Error(input) for an empty pattern or a length that cannot be.
    void put(const FilmRule& rule);
    /// Throws Error(input) where there is none.
    void remove(const std::string& pattern);
    /// The rule of a film: of those that match its path, the longest.
    std::optional<FilmRule> rule_of(const std::filesystem::path& film);

private:
    Engine& engine_;
};

}  // namespace optrel
