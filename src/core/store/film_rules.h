// SPDX-License-Identifier: GPL-3.0-or-later
// Rules for films: lens, focal length and recorded area, which films do not store themselves.
#pragma once

#include <filesystem>
#include <optional>
#include <string>
#include <vector>

namespace optrel {

class Engine;

struct FilmRule {
    std::string pattern;  ///< pattern of paths with * and ?: "/shoots/north/*", "*_B2_*.mov"
    std::string profile;  ///< id of a lens profile; empty: none
    double focal_mm = 0;
    double area_width_mm = 0;  ///< width of the recorded part of the sensor, mm
    std::string body;          ///< name of the body, for display
    std::string author, time;
};

class StoredFilmRules {
public:
    explicit StoredFilmRules(Engine& engine) : engine_(engine) {}

    /// All rules, ordered by pattern.
    std::vector<FilmRule> all() const;
    /// Adds a rule or replaces the rule with the same pattern. Throws Error(input) for an empty pattern or an
    /// impossible length.
    void put(const FilmRule& rule);
    /// Throws Error(input) for an unknown pattern.
    void remove(const std::string& pattern);
    /// The matching rule with the longest pattern.
    std::optional<FilmRule> rule_of(const std::filesystem::path& film) const;

private:
    Engine& engine_;
};

}  // namespace optrel
