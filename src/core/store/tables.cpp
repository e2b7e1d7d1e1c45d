// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/tables.h"

#include <map>
#include <sstream>
#include <stdexcept>

namespace optrel {
namespace {

/// Parses "id name width:whole"; the default type is text.
StoreTable table(const std::string& name, const std::string& key, const std::string& columns, bool numbered = false,
                 bool only_added = false) {
    using Kind = TableColumn::Kind;
    static const std::map<std::string, Kind> kinds{
        {"whole", Kind::whole}, {"real", Kind::real}, {"yes", Kind::yes}, {"bytes", Kind::bytes}};
    StoreTable out{name, key, {}, numbered, only_added};
    std::istringstream in(columns);
    for (std::string column; in >> column;) {
        const std::size_t at = column.find(':');
        out.columns.push_back(at == std::string::npos
                                  ? TableColumn{column}
                                  : TableColumn{column.substr(0, at), kinds.at(column.substr(at + 1))});
    }
    return out;
}

}  // namespace

std::vector<std::string> StoreTable::column_names() const {
    std::vector<std::string> out;
    for (const TableColumn& c : columns) out.push_back(c.name);
    return out;
}

const std::vector<StoreTable>& store_tables() {
    static const std::vector<StoreTable> all{
        table("counters", "name", "name value:whole"),
        table("frames", "path",
              "path rendered:yes maker model body_serial lens lens_serial focal_mm:real aperture:real iso:whole "
              "distance_m:real pitch_um:real width:whole height:whole time size:whole modified:whole other_serials "
              "filter recorded orientation:whole corrected carries colours mark equivalent_mm:whole"),
        table("moves", "from_path", "from_path to_path"),
        table("models", "id", "id maker model width:whole height:whole pitch_um:real filter recorded_adds notes"),
        table("bodies", "id",
              "id maker model serial name asset_tag width:whole height:whole pitch_um:real room condition notes "
              "in_service:yes"),
        table("lenses", "id",
              "id lens serial name asset_tag contacts:yes focal_min:real focal_max:real aperture_min:real "
              "aperture_max:real room notes in_service:yes"),
        table("claims", "id", "id document"),
        table("history", "id", "id:whole time author kind subject what before after station login seal", true, true),
        table("measurements", "id, version", "id version:whole document kind", false, true),
        table("measurement_events", "id", "id:whole time author measurement version:whole what reason", true, true),
        table("baselines", "number", "number:whole document", false, true),
        table("draft", "kind, id", "kind id document edit:whole"),
        table("runs", "id", "id:whole name chart folder", true),
        table("run_frames", "run, position", "run:whole position:whole document"),
        table("body_runs", "id", "id:whole kind name document result", true),
        table("deliveries", "id", "id document"),
        table("export_orders", "id", "id:whole station folder delivery document"),
        table("exports", "in_order, position", "in_order:whole position:whole frame out state:whole message"),
        table("colour_files", "hash", "hash name camera contents origin author time document:bytes"),
        table("film_rules", "pattern", "pattern profile focal_mm:real area_width_mm:real body author time"),
        table("intake_folders", "folder",
              "folder set_name set_until only_index:yes raw_only:yes unknown_waits:yes hours watched:yes author time"),
        table("arrivals", "id", "id:whole time way frame what why body set_name revision:whole rollout:whole", true),
        table("selections", "name", "name document"),
        table("jobs", "id", "id:whole kind title author station time cancelled:yes ended:whole", true),
        table("portions", "job, position",
              "job:whole position:whole document state:whole worker tries:whole lease:whole result noted"),
        table("proposals", "id",
              "id:whole time author station login kind subject document note state judge judged remark field", true,
              true),
        table("remarks", "id", "id:whole time author station login kind subject field words settled:yes", true),
        table("settings", "name", "name value"),
        table("roots", "root, station", "root station folder"),
        table("measurers", "key", "key name trusted:yes withdrawn author time"),
        table("found_bundles", "path", "path hash settled:yes"),
    };
    return all;
}

const StoreTable& store_table(const std::string& name) {
    for (const StoreTable& t : store_tables())
        if (t.name == name) return t;
    throw std::logic_error("There is no table " + name);
}

}  // namespace optrel
