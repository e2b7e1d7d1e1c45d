// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/intake/copies.h"

#include <fmt/format.h>

#include <algorithm>

#include "base/error.h"
#include "base/files.h"
#include "base/paths.h"
#include "base/words.h"
#include "exchange/file_name.h"
#include "frames/content_mark.h"
#include "frames/film_codec.h"
#include "studio/frames/knowledge.h"

namespace optrel {
namespace fs = std::filesystem;

bool taken_along(const fs::path& file) { return named_as_picture(file) || named_as_film(file); }

namespace {

/// Ordered by name; links are not followed.
std::vector<fs::path> plain_files(const fs::path& folder, bool (*wanted)(const fs::path&),
                                  std::vector<std::string>& problems) {
    std::vector<fs::path> out;
    walk_files(
        folder,
        [&](const fs::directory_entry& entry) {
            std::error_code none;
            if (entry.is_regular_file(none) && !entry.is_symlink(none) && wanted(entry.path()))
                out.push_back(entry.path());
        },
        problems);
    std::sort(out.begin(), out.end());
    return out;
}

}  // namespace

std::vector<fs::path> files_to_copy(const fs::path& folder, std::vector<std::string>& problems) {
    return plain_files(folder, taken_along, problems);
}

FolderContents::FolderContents(const fs::path& folder) {
    // An unreadable folder contains no known duplicates, so the copy is made.
    std::vector<std::string> unseen;
    for (const fs::path& file : plain_files(
             folder, [](const fs::path&) { return true; }, unseen))
        add(file);
}

void FolderContents::add(const fs::path& file) {
    std::error_code failed;
    const std::uintmax_t size = fs::file_size(file, failed);
    if (!failed) by_size_[size].push_back(file);
}

namespace {

/// Fingerprint of a file, computed once; empty for a missing or unreadable file, which equals no other.
template <class Kept, class Take>
const Kept& kept(std::map<fs::path, Kept>& known, const fs::path& file, const Take& take) {
    const auto [at, fresh] = known.try_emplace(file);
    try {
        if (fresh) at->second = take(file);
    } catch (const Error&) {
    }
    return at->second;
}

}  // namespace

std::optional<fs::path> FolderContents::same_as(const fs::path& file, const std::function<std::string()>& hash) {
    const auto found = by_size_.find(require_regular(file));
    if (found == by_size_.end()) return std::nullopt;
    const ContentMark mark = content_mark(file);
    for (const fs::path& other : found->second)
        if (kept(marks_, other, content_mark) == mark &&
            kept(hashes_, other, [](const fs::path& f) { return file_hash(f); }) == hash())
            return other;
    return std::nullopt;
}

CopyNames::CopyNames(fs::path to, std::string pattern, const Fleet* fleet)
    : to_(std::move(to)), pattern_(std::move(pattern)), fleet_(fleet) {
    check_name_pattern(pattern_);
}

fs::path CopyNames::wanted(const fs::path& file, const fs::path& name, int number, std::string& note) const {
    NameFacts facts{name.stem().string(), "", "", number, {}};
    try {
        if (!named_as_film(name)) facts.metadata = read_metadata(file);
        if (fleet_ && !facts.metadata.model.empty()) {
            const FrameKnowledge known = know(file, facts.metadata, *fleet_);
            if (!known.facts.body.empty()) facts.body = body_label(known.facts, *fleet_);
        }
    } catch (const Error&) {
        // A damaged frame is copied, too.
        note = "Its metadata cannot be read; it is copied as it is.";
    }
    return to_ / (name_from(pattern_, facts) + name.extension().string());
}

bool CopyNames::is_taken(const fs::path& path) const {
    std::error_code none;
    return given_.count(lowered(path.string())) > 0 || fs::exists(fs::symlink_status(path, none));
}

fs::path CopyNames::take(const fs::path& wanted, std::string& note) {
    fs::path out = wanted;
    for (int i = 2; is_taken(out); ++i)
        out = wanted.parent_path() / fmt::format("{}-{}{}", wanted.stem().string(), i, wanted.extension().string());
    if (out != wanted && note.empty())
        note =
            fmt::format("{} is another file, so it is named {}.", wanted.filename().string(), out.filename().string());
    given_.insert(lowered(out.string()));
    return out;
}

}  // namespace optrel
