// SPDX-License-Identifier: GPL-3.0-or-later
// Reading the metadata of files.
#include <fmt/format.h>

#include "base/json_text.h"
#include "base/words.h"
#include "studio/intake/take_in.h"
#include "studio/queue/every_kind.h"
#include "studio/queue/portion_paths.h"
#include "studio/queue/portion_sums.h"

namespace optrel {
namespace fs = std::filesystem;
namespace {

using nlohmann::json;

PortionResult do_index(const Work& work) {
    auto& [store, portion, what, progress] = work;
    std::vector<fs::path> files;
    for (const json& file : what.at("files")) files.push_back(sound_path(store, file));
    if (!files.empty()) require_here(files.front().parent_path());
    std::vector<FrameRecord> known;
    for (const fs::path& file : files)
        if (auto f = store.frames().find(file)) known.push_back(std::move(*f));
    std::vector<std::string> problems;
    auto fresh = std::make_shared<std::vector<FrameRecord>>();
    index_files(
        files, known,
        [&](const std::vector<FrameRecord>& some) { fresh->insert(fresh->end(), some.begin(), some.end()); }, problems,
        progress);
    const bool enter = what.at("enter");
    return {json_text({{"files", files.size()}, {"fresh", fresh->size()}, {"problems", problems}}),
            [fresh, enter](Store& into) {
                if (!fresh->empty()) into.frames().put(*fresh, enter);
            }};
}

void tell_index(const WorkResults& results, std::vector<std::string>& lines) {
    const std::vector<json> done = results.done();
    lines.push_back(fmt::format("{} looked at, {} new or changed.", counted(sum(done, "files"), "file", "files"),
                                sum(done, "fresh")));
    sentences(done, "problems", lines);
}

}  // namespace

const QueueKind& index_work() {
    static const QueueKind kind("index", do_index, tell_index);
    return kind;
}

}  // namespace optrel
