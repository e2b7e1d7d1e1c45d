// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/queue/portion_paths.h"

#include <fmt/format.h>

#include <algorithm>

#include "base/error.h"
#include "base/paths.h"
#include "base/station.h"
#include "base/words.h"
#include "studio/queue/queue_kind.h"

namespace optrel {
namespace fs = std::filesystem;

using nlohmann::json;

void require_root(const fs::path& file) {
    if (const std::string root = RootMap::missing(file); !root.empty())
        throw RootMissing(fmt::format("The root '{}' has no folder at this station.", root));
}

void require_here(const fs::path& file) {
    std::error_code none;
    if (fs::exists(file, none)) return;
    require_root(file);
    throw WorkDeferred(fmt::format("{} is not to be had at this station.", printable(file.string())));
}

fs::path sound_path(const Store& store, const json& kept) {
    const std::string said = kept.get<std::string>();
    const fs::path path = store.here(said);
    const bool leads_out = std::any_of(path.begin(), path.end(), [](const fs::path& step) { return step == ".."; });
    const bool whole = path.is_absolute() || !RootMap::missing(path).empty();
    if (said.size() > 8000 || leads_out || !whole)
        throw input_error(fmt::format("'{}' is no path that a portion of work can have; cancel that job.",
                                      printable(said.substr(0, 200))));
    return path;
}

fs::path sound_target(const Store& store, const json& kept) {
    const fs::path folder = sound_path(store, kept);
    if (!is_server_address(store.source().address())) return folder;
    require_root(folder);
    const std::optional<fs::path> real = resolved_path(folder);
    for (const RootPlace& r : store.roots().all()) {
        if (r.station != this_station() || !real) continue;
        if (const auto root = resolved_path(r.folder); root && lies_within(*real, *root)) return folder;
    }
    throw input_error(fmt::format("{} lies in no root of this station, so nothing is written there; cancel that job.",
                                  printable(folder.string())));
}

}  // namespace optrel
