// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/film_rules.h"

#include <fmt/format.h>
#include <fnmatch.h>

#include "base/error.h"
#include "base/paths.h"
#include "base/words.h"
#include "store/document_paths.h"
#include "store/engine.h"
#include "store/table_rows.h"

namespace optrel {

std::vector<FilmRule> StoredFilmRules::all() const {
    std::vector<FilmRule> out;
    TableReader row(engine_, "film_rules", "ORDER BY pattern");
    while (row.next())
        out.push_back({pattern_here(engine_, row.text("pattern")), row.text("profile"), row.real("focal_mm"),
                       row.real("area_width_mm"), row.text("body"), row.text("author"), row.text("time")});
    return out;
}

void StoredFilmRules::put(const FilmRule& r) {
    if (trimmed(r.pattern).empty())
        throw input_error("A rule for films needs a pattern of their paths; write one, for instance /shoots/north/*.");
    if (!(r.focal_mm > 0) || !(r.area_width_mm > 0))
        throw input_error("A rule for films needs the focal length and the width of the recorded area, both in mm.");
    Transaction transaction(engine_);
    put_row(engine_, "film_rules",
            {{"pattern", text(kept_pattern(engine_, trimmed(r.pattern)))},
             {"profile", text(r.profile)},
             {"focal_mm", r.focal_mm},
             {"area_width_mm", r.area_width_mm},
             {"body", text(r.body)},
             {"author", text(r.author)},
             {"time", text(r.time)}});
    engine_.record({"", r.author, "rule", trimmed(r.pattern), "keep", "",
                    fmt::format("{} {} mm, {} mm wide", r.profile, r.focal_mm, r.area_width_mm)});
    engine_.stamp("film_rules");
    transaction.commit();
}

void StoredFilmRules::remove(const std::string& pattern) {
    Transaction transaction(engine_);
    std::vector<std::string> patterns;
    for (const FilmRule& r : all()) patterns.push_back(r.pattern);
    if (std::find(patterns.begin(), patterns.end(), pattern) == patterns.end())
        throw input_error(
            fmt::format("There is no rule for films '{}'{}.", printable(pattern), nearest_clause(pattern, patterns)));
    engine_.run("DELETE FROM film_rules WHERE pattern = ?", {text(kept_pattern(engine_, pattern))});
    engine_.record({"", "", "rule", pattern, "take out", "", ""});
    engine_.stamp("film_rules");
    transaction.commit();
}

std::optional<FilmRule> StoredFilmRules::rule_of(const std::filesystem::path& film) const {
    const std::string path = plain_path(film).string();
    std::optional<FilmRule> best;
    for (FilmRule& r : all())
        if (fnmatch(r.pattern.c_str(), path.c_str(), 0) == 0 && (!best || r.pattern.size() > best->pattern.size()))
            best = std::move(r);
    return best;
}

}  // namespace optrel
