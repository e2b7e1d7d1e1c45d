// SPDX-License-Identifier: GPL-3.0-or-later
// Exporting one frame or film.
#include <fmt/format.h>

#include "base/error.h"
#include "base/files.h"
#include "base/json_text.h"
#include "base/words.h"
#include "studio/development/frame_development.h"
#include "studio/exports/account.h"
#include "studio/exports/exporting.h"
#include "studio/exports/free_name.h"
#include "studio/queue/every_kind.h"
#include "studio/queue/portion_paths.h"
#include "studio/queue/portion_sums.h"

namespace optrel {
namespace fs = std::filesystem;
namespace {

using nlohmann::json;

/// Whether a file is the unfinished export of this frame by a station that died. Compared by the frame's contents,
/// because a frame of the same name may be in another folder.
bool written_of(const fs::path& out, const fs::path& frame) {
    try {
        return read_account(out).original_hash == file_hash(frame);
    } catch (const Error&) {
        return false;
    }
}

PortionResult do_export(const Work& work) {
    Store& store = work.store;
    const QueuedPortion& portion = work.portion;
    const json& what = work.what;
    Progress& progress = work.progress;
    const fs::path frame = sound_path(store, what.at("frame"));
    const fs::path folder = sound_target(store, what.at("folder"));
    require_here(frame);
    require_root(folder);
    const Delivery delivery =
        delivery_from_json(what.value("delivery", what.value("recipe", json())).dump(), "The delivery of a portion");
    const FrameDevelopment facts = development_from_store(store, frame);
    // A station that died may have written the file under the name that it noted.
    const fs::path begun = portion.noted.empty() ? fs::path() : store.here(portion.noted);
    if (!begun.empty()) sweep_parts(begun.parent_path(), {begun.filename().string()});
    Exported done;
    if (!begun.empty() && written_of(begun, frame)) {
        done = export_any(frame, facts, delivery, begun, Existing::replace_ours, progress);
    } else {
        ExportNames names(folder, delivery);
        for (const std::string& other : store.queue().noted_beside(portion)) names.given(store.here(other));
        const auto claim = [&](const fs::path& out) {
            const StoredQueue::Noted noted = store.queue().note(portion, store.kept(out));
            if (noted == StoredQueue::Noted::lost) throw Cancelled();
            return noted == StoredQueue::Noted::mine;
        };
        done = write_under_free_name(
            names, frame, facts, delivery, what.at("position"),
            [&](const fs::path& out) {
                return export_any(frame, facts, delivery, out, existing_for(delivery), progress);
            },
            claim);
    }
    return {json_text({{"frame", printable(frame.filename().string())},
                       {"out", store.kept(done.out)},
                       {"profile", done.profile},
                       {"remarks", done.remarks}})};
}

void tell_export(const WorkResults& results, std::vector<std::string>& lines) {
    const std::vector<json> done = results.done();
    lines.push_back(fmt::format("{} written out.", counted(static_cast<long long>(done.size()), "frame", "frames")));
    for (const json& one : done) {
        lines.push_back(printable(results.store.here(one.value("out", "")).string()));
        for (const std::string remark : one.value("remarks", json::array())) lines.push_back(remark);
    }
}

}  // namespace

const QueueKind& export_work() {
    static const QueueKind kind("export", do_export, tell_export);
    return kind;
}

}  // namespace optrel
