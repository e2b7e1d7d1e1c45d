// SPDX-License-Identifier: GPL-3.0-or-later
#include "base/paths.h"

#include <fmt/format.h>

#include "base/words.h"

namespace optrel {
namespace fs = std::filesystem;

fs::path plain_path(const fs::path& path) {
    if (path.empty()) return path;
    const fs::path out = fs::absolute(path).lexically_normal();
    return out.has_filename() || !out.has_relative_path() ? out : out.parent_path();
}

std::optional<fs::path> resolved_path(const fs::path& path) {
    std::error_code failed;
    const fs::path out = fs::weakly_canonical(path, failed);
    if (failed) return std::nullopt;
    return plain_path(out);
}

bool same_file(const fs::path& a, const fs::path& b) {
    std::error_code failed;
    return fs::equivalent(a, b, failed) && !failed;
}

bool lies_within(const fs::path& path, const fs::path& folder) {
    const std::string p = path.string();
    std::string f = folder.string();
    while (f.size() > 1 && f.back() == '/') f.pop_back();
    return f == "/" || (p.size() > f.size() && p.compare(0, f.size(), f) == 0 && p[f.size()] == '/');
}

void walk_files(const fs::path& folder, const std::function<void(const fs::directory_entry&)>& visit,
                std::vector<std::string>& problems) {
    std::error_code failed;
    fs::directory_iterator it(folder, failed);
    for (; !failed && it != fs::directory_iterator(); it.increment(failed)) {
        if (it->path().filename().string().front() == '.') continue;
        std::error_code none;
        if (!it->is_directory(none))
            visit(*it);
        else if (!it->is_symlink(none))
            walk_files(it->path(), visit, problems);
    }
    if (failed)
        problems.push_back(fmt::format("The folder {} cannot be looked into ({}); check its rights.",
                                       printable(folder.string()), failed.message()));
}

}  // namespace optrel
