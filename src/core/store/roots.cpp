// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/roots.h"

#include <fmt/format.h>

#include <algorithm>
#include <utility>

#include "base/error.h"
#include "base/path_text.h"
#include "base/paths.h"
#include "base/station.h"
#include "base/words.h"
#include "store/document_paths.h"
#include "store/engine.h"
#include "store/history.h"

namespace optrel {
namespace fs = std::filesystem;

namespace {

void check_name(const std::string& name) {
    const bool sound = !name.empty() && std::all_of(name.begin(), name.end(), [](unsigned char c) {
        return std::isalnum(c) || c == '-' || c == '_' || c == '.' || c >= 0x80;
    });
    if (!sound || !is_utf8(name))
        throw input_error(fmt::format(
            "'{}' is no name for a root; write letters, figures, dots, dashes or underscores.", printable(name)));
}

}  // namespace

std::vector<RootPlace> StoredRoots::all() const {
    std::vector<RootPlace> out;
    QSqlQuery q = engine_.run("SELECT root, station, folder FROM roots ORDER BY root, station");
    while (q.next()) out.push_back({text(q.value(0)), text(q.value(1)), path_from_text(text(q.value(2)))});
    return out;
}

void StoredRoots::put(const RootPlace& place) {
    check_name(place.root);
    const bool mine = place.station == this_station();
    RootPlace p{place.root, place.station, plain_path(place.folder)};
    std::error_code failed;
    if (mine && !fs::is_directory(p.folder, failed))
        throw input_error(fmt::format("{} is no folder; name the one that holds the frames at this station.",
                                      printable(place.folder.string())));
    Transaction transaction(engine_, "roots");
    for (const RootPlace& other : all())
        if (other.station == p.station && other.root != p.root && other.folder == p.folder)
            throw input_error(fmt::format("{} is the root '{}' already; name another folder, or take that one out.",
                                          p.folder.string(), other.root));
    engine_.run(upsert("roots", {"root", "station", "folder"}, "root, station"),
                {text(p.root), text(p.station), text(path_to_text(p.folder.native()))});
    engine_.record({"", "", "root", p.root, "place at " + p.station, "", printable(p.folder.string())});
    read_roots(engine_);
    if (mine) take_in_paths();
    engine_.stamp("roots");
    transaction.commit();
}

/// Converts known paths inside the folder to the root.
void StoredRoots::take_in_paths() {
    struct Place {
        const char *table, *column;
        bool key;  ///< primary key of the table
    };
    constexpr Place places[] = {{"frames", "path", true},    {"moves", "from_path", true},
                                {"moves", "to_path", false}, {"exports", "frame", false},
                                {"exports", "out", false},   {"export_orders", "folder", false},
                                {"runs", "folder", false},   {"intake_folders", "folder", true}};
    for (const Place& p : places) {
        const std::string having = fmt::format(" FROM {} WHERE {} = ?", p.table, p.column);
        QSqlQuery q = engine_.run(fmt::format("SELECT DISTINCT {0} FROM {1} WHERE {0} LIKE '/%'", p.column, p.table));
        std::vector<std::pair<QVariant, QVariant>> renamed;
        while (q.next())
            if (const QVariant kept = engine_.kept(path_from_text(text(q.value(0)))); kept != q.value(0))
                renamed.emplace_back(q.value(0), kept);
        for (const auto& [old, kept] : renamed)
            // Another station may have stored it under the root already.
            if (p.key && engine_.run("SELECT 1" + having, {kept}).next())
                engine_.run("DELETE" + having, {old});
            else
                engine_.run(fmt::format("UPDATE {0} SET {1} = ? WHERE {1} = ?", p.table, p.column), {kept, old});
    }
    for (const PathDocuments& d : path_documents) rewrite_paths(engine_, d);
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
    read_roots(engine_);
    engine_.stamp("roots");
    transaction.commit();
}

void read_roots(Engine& engine) {
    std::vector<RootPlace> mine = StoredRoots(engine).all();
    std::erase_if(mine, [](const RootPlace& p) { return p.station != this_station(); });
    engine.set_roots(RootMap(std::move(mine)));
}

}  // namespace optrel
