// SPDX-License-Identifier: GPL-3.0-or-later
#include "store/root_map.h"

#include <algorithm>

#include "base/path_text.h"
#include "base/paths.h"

namespace optrel {

namespace fs = std::filesystem;

namespace {

/// Name of the root in "NAME:/..."; empty if there is none.
std::string root_in(const std::string& kept) {
    const std::size_t at = kept.find(":/");
    if (at == std::string::npos || at == 0 || kept.find('/') < at) return "";
    return kept.substr(0, at);
}

}  // namespace

RootMap::RootMap(std::vector<RootPlace> places) : places_(std::move(places)) {
    std::sort(places_.begin(), places_.end(), [](const RootPlace& a, const RootPlace& b) {
        return a.folder.native().size() > b.folder.native().size();
    });
}

std::string RootMap::kept(const fs::path& path) const {
    for (const RootPlace& p : places_)
        if (path == p.folder)
            return p.root + ":/";
        else if (lies_within(path, p.folder))
            return p.root + ":/" + path_to_text(path.lexically_relative(p.folder).native());
    return path_to_text(path.native());
}

fs::path RootMap::here(const std::string& kept) const {
    const std::string root = places_.empty() ? "" : root_in(kept);
    if (root.empty()) return path_from_text(kept);
    for (const RootPlace& p : places_)
        if (p.root == root) {
            const std::string rest = kept.substr(root.size() + 2);
            return rest.empty() || rest == "." ? p.folder : p.folder / path_from_text(rest);
        }
    return path_from_text(kept);
}

std::string RootMap::missing(const fs::path& path) { return root_in(path.string()); }

}  // namespace optrel
