// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/stations/history_check.h"

#include <fmt/format.h>

#include <fstream>
#include <mutex>
#include <nlohmann/json.hpp>

#include "base/error.h"
#include "base/files.h"
#include "base/json_text.h"
#include "base/path_text.h"
#include "studio/stations/station_memory.h"

namespace optrel {
namespace fs = std::filesystem;

namespace {

fs::path file_of(const StoreSource& store, const fs::path& folder) {
    return station_memory(store, "witness", folder).string() + ".json";
}

std::optional<HistoryMark> remembered_in(const fs::path& file) {
    std::error_code none;
    if (!fs::exists(file, none)) return std::nullopt;
    try {
        const nlohmann::json j = parse_json(read_file(file), file.string());
        return HistoryMark{j.at("row").get<long long>(), j.at("seal").get<std::string>()};
    } catch (const std::exception&) {
        return std::nullopt;  // then nothing is remembered
    }
}

void remember(const fs::path& file, const StoreSource& store, const HistoryMark& mark) {
    if (mark.id == 0) return;
    make_folders(file.parent_path());
    write_atomic(file,
                 json_text({{"store", path_to_text(whole_address(store))}, {"row", mark.id}, {"seal", mark.seal}}, 1));
}

/// As remember(), but without flushing, because it runs for each change, and never to an older row.
void remember_newer(const StoreSource& store, const HistoryMark& mark) {
    static std::mutex one_at_a_time;
    const std::lock_guard lock(one_at_a_time);
    const fs::path file = file_of(store, {});
    if (const auto known = remembered_in(file); known && known->id >= mark.id) return;
    make_folders(file.parent_path());
    const fs::path part = part_beside(file);
    std::ofstream(part) << json_text(
        {{"store", path_to_text(whole_address(store))}, {"row", mark.id}, {"seal", mark.seal}}, 1);
    fs::rename(part, file);
}

}  // namespace

HistoryAudit audit_history(const Store& store, Progress& progress, bool accept, const fs::path& folder) {
    const fs::path file = file_of(store.source(), folder);
    HistoryAudit out = store.history().audit(accept ? std::nullopt : remembered_in(file), progress);
    if (out.problems.empty()) remember(file, store.source(), out.newest);
    return out;
}

void remember_changes() { keep_marks_by(remember_newer); }

std::string check_history(const Store& store, const fs::path& folder) {
    const fs::path file = file_of(store.source(), folder);
    if (const std::optional<HistoryMark> mark = remembered_in(file); mark && !store.history().holds(*mark))
        return fmt::format(
            "The history of this store is not the one that this station saw before (row {}): it was written anew, or "
            "the store is an older copy; 'optrel-cli store audit' reads it all, and with --accept takes it as it is.",
            mark->id);
    try {
        remember(file, store.source(), store.history().newest());
    } catch (const std::exception&) {
        // A full local disk does not affect the store.
    }
    return {};
}

}  // namespace optrel
