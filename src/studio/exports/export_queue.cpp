// SPDX-License-Identifier: GPL-3.0-or-later
#include <fmt/format.h>
#include <unistd.h>

#include "base/error.h"
#include "base/files.h"
#include "base/station.h"
#include "studio/development/frame_development.h"
#include "studio/exports/free_name.h"

namespace optrel {
namespace fs = std::filesystem;

namespace {

void export_item(Store& store, QueuedExport& item, const Delivery& delivery, Progress& progress) {
    require_regular(item.frame);
    const FrameDevelopment facts = development_from_store(store, item.frame);
    Exported done;
    if (item.state == ExportState::writing && !item.out.empty()) {
        // An interrupted item already has a name; a file of Optrel there is its unfinished result.
        sweep_parts(item.out.parent_path());
        done = export_any(item.frame, facts, delivery, item.out, Existing::replace_ours, progress);
    } else {
        ExportNames names(item.folder, delivery);
        for (const fs::path& out : store.exports().outs_beside(item)) names.given(out);
        done = write_under_free_name(names, item.frame, facts, delivery, item.position, [&](const fs::path& out) {
            item.out = out;
            item.state = ExportState::writing;
            store.exports().set(item);
            return export_any(item.frame, facts, delivery, out, existing_for(delivery), progress);
        });
    }
    item.message.clear();
    for (const std::string& remark : done.remarks) item.message += (item.message.empty() ? "" : " ") + remark;
}

}  // namespace

std::optional<QueuedExport> export_next(Store& store, const std::string& station, Progress& progress) {
    std::optional<QueuedExport> item = store.exports().next(station);
    if (!item) return std::nullopt;
    try {
        const Delivery delivery = store.exports().delivery_of(*item);
        export_item(store, *item, delivery, progress);
        item->state = ExportState::done;
    } catch (const Cancelled&) {
        item->state = ExportState::waiting;
        item->out.clear();
        store.exports().set(*item);
        throw;
    } catch (const Error& error) {
        if (error.kind() == ErrorKind::store) throw;
        item->state = ExportState::failed;
        item->message = error.what();
    } catch (const std::exception& error) {
        item->state = ExportState::failed;
        item->message = reason_for(item->frame, error);
    }
    if (item->state == ExportState::failed) item->out.clear();
    store.exports().set(*item);
    return item;
}

std::unique_ptr<StoreHold> export_claim(const StoreSource& store) {
    // On a server, also excludes another machine with the same station name.
    if (is_server_address(store.address())) return store.open_for_writing().hold("exports of " + this_station());
    const std::string name = fmt::format("optrel-exports-{}-{:016x}.lock", getuid(), fnv1a(store.address()));
    return hold_by(FileLock::try_own(fs::temp_directory_path() / name));
}

}  // namespace optrel
