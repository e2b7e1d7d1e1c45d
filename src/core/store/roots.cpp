// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/roots.h"

#include <fmt/format.h>

#include <algorithm>
#include <utility>

#include "base/error.h"
#include "base/paths.h"
#include "base/station.h"
#include "base/words.h"
#include "store/engine.h"
#include "store/history.h"

namespace optrel {
namespace fs = std::filesystem;

namespace {

/// The root in "NAME:/..."; empty when it is none.
std::string root_in(const std::string& kept) {
    const std::size_t at = kept.find(":/");
    if (at == std::string::npos || at == 0 || kept.find('/') < at) return "";
    return kept.substr(0, at);
}

void check_name(const std::string& name) {
    const bool sound = !name.empty() && std::all_of(name.begin(), name.end(), [](unsigned char c) {
        return std::isalnum(c) || c == '-' || c == '_' || c == '.' || c >= 0x80;
    });
    if (!sound || !is_utf8(name))
        throw input_error(fmt::format(
            "'{}' is no name for a root; write letters, figures, dots, dashes or underscores.", printable(name)));
}

}  // namespace

RootMap::RootMap(std::vector<RootPlace> places) : places_(std::move(places)) {
    std::sort(places_.begin(), places_.end(), [](const RootPlace& a, const RootPlace& b) {
        return a.folder.native().size() > b.folder.native().size();
    });
}

std::string RootMap::kept(const fs::path& path) const {
    for (const RootPlace& p : places_)
        if (lies_within(path, p.folder)) return p.root + ":/" + path.lexically_relative(p.folder).string();
    return path.string();
}

fs::path RootMap::here(const std::string& kept) const {
    if (places_.empty()) return kept;
    const std::string root = root_in(kept);
    if (root.empty()) return kept;
    for (const RootPlace& p : places_)
        if (p.root == root) {
            const std::string rest = kept.substr(root.size() + 2);
            return rest.empty() || rest == "." ? p.folder : p.folder / rest;
        }
    return kept;
}

std::string RootMap::missing(const fs::path& path) { return root_in(path.string()); }

std::vector<RootPlace> StoredRoots::all() {
    std::vector<RootPlace> out;
    QSqlQuery q = engine_.run("SELECT root, station, folder FROM roots ORDER BY root, station");
    while (q.next()) out.push_back({text(q.value(0)), text(q.value(1)), text(q.value(2))});
    return out;
}

void StoredRoots::put(const RootPlace& place) {
    check_name(place.root);
    const bool mine = place.station == this_station();
    RootPlace p{place.root, place.station, plain_path(place.folder)};
    std::error_code failed;
    if (!is_utf8(p.folder.string()) || (mine && !fs::is_directory(p.folder, failed)))
        throw input_error(fmt::format("{} is no folder; name the one that holds the frames at this station.",
                                      printable(place.folder.string())));
    Transaction transaction(engine_, "roots");
    for (const RootPlace& other : all())
        if (other.station == p.station && other.root != p.root && other.folder == p.folder)
            throw input_error(fmt::format("{} is the root '{}' already; name another folder, or take that one out.",
                                          p.folder.string(), other.root));
    engine_.run(upsert("roots", {"root", "station", "folder"}, "root, station"),
                {text(p.root), text(p.station), text(p.folder.string())});
    engine_.record({"", "", "root", p.root, "place at " + p.station, "", p.folder.string()});
    engine_.read_roots();
    if (mine) take_in_paths();
    engine_.stamp("roots");
    transaction.commit();
}

/// What was kept under a path of this station is kept under its root.
void StoredRoots::take_in_paths() {
    const std::pair<const char*, const char*> columns[] = {
        {"frames", "path"}, {"moves", "from_path"},      {"moves", "to_path"}, {"exports", "frame"},
        {"exports", "out"}, {"export_orders", "folder"}, {"runs", "folder"},   {"intake_folders", "folder"}};
    for (const auto& [table, column] : columns) {
        QSqlQuery q = engine_.run(fmt::format("SELECT DISTINCT {0} FROM {1} WHERE {0} LIKE '/%'", column, table));
        std::vector<std::pair<std::string, std::string>> renamed;
        while (q.next())
            if (const std::string old = text(q.value(0)), kept = text(engine_.kept(old)); kept != old)
                renamed.emplace_back(old, kept);
        for (const auto& [old, kept] : renamed) {
            // Another station may know it by its root already.
            const bool there =
                engine_.run(fmt::format("SELECT 1 FROM {} WHERE {} = ?", table, column), {text(kept)}).next();
            const bool unique = std::string(column) != "out" && std::string(table) != "exports" &&
                                std::string(table) != "runs" && std::string(table) != "export_orders" &&
                                std::string(column) != "to_path";
            if (there && unique)
                engine_.run(fmt::format("DELETE FROM {} WHERE {} = ?", table, column), {text(old)});
            else
                engine_.run(fmt::format("UPDATE {0} SET {1} = ? WHERE {1} = ?", table, column),
                            {text(kept), text(old)});
        }
    }
    engine_.stamp("frames");
}

void StoredRoots::remove(const std::string& root, const std::string& station) {
    Transaction transaction(engine_, "roots");
    std::vector<std::string> names;
    for (const RootPlace& p : all())
        if (p.station == station) names.push_back(p.root);
    if (std::find(names.begin(), names.end(), root) == names.end())
        throw input_error(
            fmt::format("There is no root '{}' at {}{}.", printable(root), station, nearest_clause(root, names)));
    engine_.run("DELETE FROM roots WHERE root = ? AND station = ?", {text(root), text(station)});
    engine_.record({"", "", "root", root, "take out at " + station, "", ""});
    engine_.read_roots();
    engine_.stamp("roots");
    transaction.commit();
}

}  // namespace optrel
