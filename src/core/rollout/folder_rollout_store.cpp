// SPDX-License-Identifier: GPL-3.0-or-later
#include "rollout/folder_rollout_store.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "base/error.h"
#include "base/files.h"
#include "base/json_text.h"
#include "base/numbers.h"
#include "base/words.h"
#include "rollout/frame_leases.h"
#include "rollout/packed_plan.h"

namespace optrel {
namespace {

using nlohmann::json;
namespace fs = std::filesystem;

constexpr std::uintmax_t plan_limit = 4ull << 30;

RolloutStatus status_of(const fs::path& folder) {
    std::error_code none;
    if (!fs::exists(folder / "status", none)) return RolloutStatus::preparing;
    return rollout_status_named(read_file(folder / "status"));
}

RolloutRecord read_record(const fs::path& folder, int number) {
    RolloutRecord r;
    r.number = number;
    try {
        r.status = status_of(folder);
        std::error_code none;
        // A rollout that never began may lack a record, also after give_up().
        const bool begun = r.status != RolloutStatus::preparing && r.status != RolloutStatus::rolled_back;
        if (!begun && !fs::exists(folder / "record.json", none)) return r;
        const json j = parse_json(read_file(folder / "record.json"), "record.json");
        r.revision = j.at("revision");
        r.author = j.at("author");
        r.time = j.at("time");
        r.frames = j.at("frames");
        r.station = j.value("station", "");
        r.scope = j.value("scope", "");
        r.hours = day_hours_from(j.value("hours", ""));
        r.takes_back = j.value("takes_back", 0);
    } catch (const std::exception& error) {
        r.status = RolloutStatus::damaged;
        r.problem = fmt::format("The record of a rollout in {} is damaged ({}); restore that folder from a copy.",
                                folder.string(), without_stop(error.what()));
    }
    return r;
}

/// The number in a folder's name; 0: the folder is no rollout.
int number_of(const fs::path& folder) {
    const auto number = parse_integer(folder.filename().string());
    return number && *number > 0 && *number < 100000000 ? static_cast<int>(*number) : 0;
}

}  // namespace

fs::path FolderRolloutStore::folder(int number) const { return root_ / fmt::format("{:06d}", number); }

std::vector<RolloutRecord> FolderRolloutStore::list() const {
    std::vector<RolloutRecord> out;
    std::error_code none;
    for (const fs::directory_entry& entry : fs::directory_iterator(root_, none))
        if (const int number = number_of(entry.path()); number > 0 && entry.is_directory(none))
            out.push_back(read_record(entry.path(), number));
    const std::map<int, std::string> at_work = rollouts_at_work(root_);
    for (RolloutRecord& r : out)
        if (const auto at = at_work.find(r.number); at != at_work.end()) r.running_at = at->second;
    std::sort(out.begin(), out.end(),
              [](const RolloutRecord& a, const RolloutRecord& b) { return a.number > b.number; });
    return out;
}

std::unique_ptr<RolloutStore::Lease> FolderRolloutStore::lease(const std::vector<fs::path>& frames,
                                                               const std::string& who) {
    return lease_frames(root_, frames, who);
}

void FolderRolloutStore::begin(RolloutRecord& record, const std::vector<RolloutEntry>& entries) {
    record.number = 1;
    std::error_code failed;
    for (const fs::directory_entry& entry : fs::directory_iterator(root_, failed))
        record.number = std::max(record.number, number_of(entry.path()) + 1);
    record.status = RolloutStatus::writing;
    for (;; ++record.number) {
        const fs::path in = folder(record.number);
        // Whoever creates the folder owns the number.
        if (!make_folder_durable(in)) continue;
        // Held while it begins, so that nobody takes it for an interrupted one. If somebody has given it up already,
        // the next number is used.
        const auto beginning = FileLock::try_own(in / "beginning");
        if (beginning && !fs::exists(in / "status", failed)) return write(record, entries);
    }
}

void FolderRolloutStore::keep(const RolloutRecord& record, const std::vector<RolloutEntry>& entries) {
    std::error_code none;
    if (fs::exists(folder(record.number) / "status", none)) return;
    make_folder_durable(folder(record.number));
    write(record, entries);
}

/// Writes into the existing folder. The status is written last: without it, the rollout never began.
void FolderRolloutStore::write(const RolloutRecord& record, const std::vector<RolloutEntry>& entries) {
    const fs::path in = folder(record.number);
    try {
        const PackedPlan packed = pack(entries);
        write_atomic(in / "record.json", json_text({{"number", record.number},
                                                    {"revision", record.revision},
                                                    {"author", record.author},
                                                    {"time", record.time},
                                                    {"frames", record.frames},
                                                    {"station", record.station},
                                                    {"scope", record.scope},
                                                    {"hours", to_string(record.hours)},
                                                    {"takes_back", record.takes_back}},
                                                   1));
        write_atomic(in / "data", packed.data);
        write_atomic(in / "plan.json", packed.plan);
        set_status(record.number, record.status);
    } catch (...) {
        std::error_code ignored;
        fs::remove_all(in, ignored);  // no sidecar was touched yet
        throw;
    }
}

RolloutRecord FolderRolloutStore::record(int number) const {
    RolloutRecord now = read_record(folder(number), number);
    if (now.status == RolloutStatus::damaged) throw store_error(now.problem);
    return now;
}

std::vector<RolloutEntry> FolderRolloutStore::entries(const RolloutRecord& record) const {
    const fs::path in = folder(record.number);
    try {
        return unpack({read_file(in / "plan.json", plan_limit), read_file(in / "data", plan_limit)});
    } catch (const std::exception& error) {
        throw store_error(
            fmt::format("The record of rollout {} in {} is damaged ({}); restore that folder from a copy.",
                        record.number, in.string(), without_stop(error.what())));
    }
}

void FolderRolloutStore::set_status(int number, RolloutStatus status) {
    write_atomic(folder(number) / "status", to_string(status));
}

void FolderRolloutStore::give_up(int number) {
    // Held during give_up(), so that the rollout cannot begin meanwhile.
    const auto beginning = FileLock::try_own(folder(number) / "beginning");
    if (!beginning)
        throw input_error(fmt::format("Rollout {} is about to begin; wait a moment, then try again.", number));
    if (status_of(folder(number)) != RolloutStatus::preparing)
        throw input_error(fmt::format("Rollout {} has begun meanwhile; look at it, then try again.", number));
    set_status(number, RolloutStatus::rolled_back);
    write_atomic(folder(number) / "data", "");
    write_atomic(folder(number) / "plan.json", json_text({{"frames", json::array()}}));
}

}  // namespace optrel
