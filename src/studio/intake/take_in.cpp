// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/intake/take_in.h"

#include <fmt/format.h>

#include <algorithm>
#include <unordered_map>

#include "base/error.h"
#include "base/files.h"
#include "base/parallel.h"
#include "base/paths.h"
#include "base/words.h"
#include "frames/content_mark.h"
#include "studio/sharing/unpacking.h"

namespace optrel {
namespace fs = std::filesystem;

std::vector<fs::path> frame_files(const fs::path& folder, std::vector<std::string>& problems,
                                  std::vector<fs::path>* bundles) {
    std::error_code failed;
    if (!fs::is_directory(folder, failed))
        throw file_error(fmt::format("{} is no folder that can be read; choose the folder that holds the frames.",
                                     printable(folder.string())));
    std::vector<fs::path> out;
    walk_files(
        plain_path(folder),
        [&](const fs::directory_entry& entry) {
            const fs::path& path = entry.path();
            std::error_code status;
            if (bundles && named_as_bundle(path) && entry.is_regular_file(status)) bundles->push_back(path);
            if (named_as_picture(path) && entry.is_regular_file(status)) out.push_back(path);
        },
        problems);
    std::sort(out.begin(), out.end());
    return out;
}

namespace {

/// Longest path of a frame, in bytes. PostgreSQL cannot index texts of more than about 2,700 bytes.
constexpr std::size_t longest_path = 2000;

}  // namespace

int offer_bundles(Store& store, const std::vector<fs::path>& bundles, std::vector<std::string>& problems) {
    int waiting = 0;
    for (const fs::path& path : bundles) try {
            const BundleView view = look_at(store, read_bundle(path));
            const bool news = std::any_of(view.parts.begin(), view.parts.end(),
                                          [](const UnpackedPart& p) { return p.stand != UnpackedPart::Stand::same; });
            if (!news) continue;
            store.found_bundles().found(path, file_hash(path));
            ++waiting;
        } catch (const std::exception& error) {
            problems.push_back(reason_for(path, error));
        }
    return waiting;
}

int index_files(const std::vector<fs::path>& files, const std::vector<FrameRecord>& known,
                const std::function<void(const std::vector<FrameRecord>&)>& sink, std::vector<FileProblem>& problems,
                Progress& progress) {
    std::unordered_map<std::string, const FrameRecord*> by_path;
    by_path.reserve(known.size());
    for (const FrameRecord& f : known) by_path[f.path.string()] = &f;
    progress.start(static_cast<int>(files.size()), "Reading metadata");
    struct Read {
        std::optional<FrameRecord> record;  ///< nothing: unchanged
        std::string problem;
    };
    std::vector<Read> read(files.size());
    const auto look = [&](int i) {
        if (progress.cancelled()) return;
        try {
            FrameRecord record;
            record.path = files[i];
            if (files[i].native().size() > longest_path)
                throw input_error(fmt::format(
                    "The path of {} has {} bytes, more than the {} that a store can look up; move it to a folder less "
                    "deep.",
                    printable(files[i].filename().string()), files[i].native().size(), longest_path));
            record.size = static_cast<long long>(fs::file_size(files[i]));
            record.modified = static_cast<long long>(fs::last_write_time(files[i]).time_since_epoch().count());
            const auto it = by_path.find(files[i].string());
            if (it == by_path.end() || it->second->size != record.size || it->second->modified != record.modified) {
                record.metadata = read_metadata(files[i]);
                record.mark = content_mark(files[i]);
                read[i].record = std::move(record);
            }
        } catch (const std::exception& error) {
            read[i].problem = reason_for(files[i], error);
        }
        progress.step();
    };
    constexpr std::size_t portion = 500;
    std::vector<FrameRecord> fresh;
    int count = 0;
    const auto flush = [&] {
        if (fresh.empty()) return;
        sink(fresh);
        count += static_cast<int>(fresh.size());
        fresh.clear();
    };
    parallel_for_taking(
        static_cast<int>(files.size()), look,
        [&](int i) {
            if (!read[i].problem.empty()) problems.push_back({files[i], std::move(read[i].problem)});
            if (read[i].record) fresh.push_back(std::move(*read[i].record));
            if (fresh.size() >= portion) flush();
        },
        4);
    flush();
    progress.check();
    std::sort(problems.begin(), problems.end(),
              [](const FileProblem& a, const FileProblem& b) { return a.sentence < b.sentence; });
    return count;
}

int index_files(const std::vector<fs::path>& files, const std::vector<FrameRecord>& known,
                const std::function<void(const std::vector<FrameRecord>&)>& sink, std::vector<std::string>& problems,
                Progress& progress) {
    std::vector<FileProblem> found;
    const int count = index_files(files, known, sink, found, progress);
    for (FileProblem& p : found) problems.push_back(std::move(p.sentence));
    return count;
}

IndexReport take_in(Store& store, const std::vector<fs::path>& folders, bool enter, Progress& progress) {
    IndexReport out;
    std::vector<fs::path> files, bundles;
    for (const fs::path& folder : folders) {
        const auto found = frame_files(folder, out.problems, &bundles);
        files.insert(files.end(), found.begin(), found.end());
    }
    out.files = static_cast<int>(files.size());
    const auto keep = [&](const std::vector<FrameRecord>& portion) {
        store.frames().put(portion, enter);
        for (const FrameRecord& f : portion)
            if (!f.metadata->corrected.empty())
                out.corrected.push_back(fmt::format("{} is corrected already ({}); it gets no correction on top.",
                                                    f.path.string(), f.metadata->corrected));
    };
    out.fresh = index_files(files, store.frames().all(), keep, out.problems, progress);
    out.bundles = offer_bundles(store, bundles, out.problems);
    return out;
}

}  // namespace optrel
