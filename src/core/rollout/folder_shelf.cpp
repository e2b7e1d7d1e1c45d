// SPDX-License-Identifier: GPL-3.0-or-later
#include "rollout/folder_shelf.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <nlohmann/json.hpp>
#include <unordered_map>

#include "base/error.h"
#include "base/files.h"
#include "base/json_text.h"
#include "base/numbers.h"
#include "base/words.h"
#include "rollout/frame_claims.h"

namespace optrel {
namespace {

using nlohmann::json;
namespace fs = std::filesystem;

constexpr std::uintmax_t plan_limit = 4ull << 30;

const char* status_names[] = {"preparing", "writing", "done", "rolling back", "rolled back", "damaged"};

RolloutStatus status_of(const fs::path& folder) {
    std::error_code none;
    if (!fs::exists(folder / "status", none)) return RolloutStatus::preparing;
    const std::string status = read_file(folder / "status");
    for (const auto s :
         {RolloutStatus::writing, RolloutStatus::done, RolloutStatus::rolling_back, RolloutStatus::rolled_back})
        if (status == to_string(s)) return s;
    throw input_error(fmt::format("its status is '{}'", printable(status.substr(0, 40))));
}

RolloutRecord read_record(const fs::path& folder, int number) {
    RolloutRecord r;
    r.number = number;
    try {
        r.status = status_of(folder);
        std::error_code none;
        if (r.status == RolloutStatus::preparing && !fs::exists(folder / "record.json", none)) return r;
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

/// The number that a folder's name says; 0: it is no rollout.
int number_of(const fs::path& folder) {
    const auto number = parse_integer(folder.filename().string());
    return number && *number > 0 && *number < 100000000 ? static_cast<int>(*number) : 0;
}

/// The sidecars as a plan over one string of all their bytes. The plan's JSON is written line by line: of very many
/// frames a document in memory would be many times as large.
std::pair<std::string, std::string> packed(const std::vector<RolloutEntry>& entries) {
    std::string plan = "{\n \"frames\": [", data;
    // Each text once, however many frames have it.
    std::unordered_map<std::string_view, std::size_t> places;
    const auto keep = [&](const std::string& bytes) {
        const auto [at, fresh] = places.try_emplace(bytes, data.size());
        if (fresh) data += bytes;
        return fmt::format("[{},{}]", at->second, bytes.size());
    };
    const char* between = "\n  ";
    for (const RolloutEntry& e : entries) {
        const std::string before = e.before ? keep(*e.before) : "null", after = e.after ? keep(*e.after) : "null";
        plan += between +
                fmt::format("{{\"frame\":{},\"before\":{},\"after\":{}}}", json_text(e.frame.string()), before, after);
        between = ",\n  ";
    }
    return {plan + "\n ]\n}", data};
}

std::vector<RolloutEntry> unpacked(const std::string& plan, const std::string& data) {
    std::vector<RolloutEntry> entries;
    std::map<std::pair<std::size_t, std::size_t>, SharedText> pieces;
    const auto piece = [&](const json& at) {
        const auto from = at.at(0).get<std::size_t>(), length = at.at(1).get<std::size_t>();
        if (from > data.size() || length > data.size() - from) throw input_error("its data end too early");
        const auto [it, fresh] = pieces.try_emplace({from, length});
        if (fresh) it->second = data.substr(from, length);
        return it->second;
    };
    const auto take = [&](const json& j) {
        RolloutEntry e;
        e.frame = j.at("frame").get<std::string>();
        if (!j.at("before").is_null()) e.before = piece(j.at("before"));
        if (!j.at("after").is_null()) e.after = piece(j.at("after"));
        entries.push_back(std::move(e));
    };
    // Each frame is dropped from the document as soon as it is taken.
    constexpr int frame_depth = 2;
    const json rest = parse_json(plan, "plan.json", [&](int depth, json::parse_event_t event, json& parsed) {
        if (event != json::parse_event_t::object_end || depth != frame_depth) return true;
        take(parsed);
        return false;
    });
    if (!rest.at("frames").is_array() || !rest.at("frames").empty()) throw input_error("it lists no frames");
    return entries;
}

}  // namespace

std::string to_string(RolloutStatus status) { return status_names[static_cast<int>(status)]; }

fs::path FolderShelf::folder(int number) const { return root_ / fmt::format("{:06d}", number); }

std::vector<RolloutRecord> FolderShelf::list() {
    std::vector<RolloutRecord> out;
    std::error_code none;
    for (const fs::directory_entry& entry : fs::directory_iterator(root_, none))
        if (const int number = number_of(entry.path()); number > 0 && entry.is_directory(none))
            out.push_back(read_record(entry.path(), number));
    std::sort(out.begin(), out.end(),
              [](const RolloutRecord& a, const RolloutRecord& b) { return a.number > b.number; });
    return out;
}

std::unique_ptr<RolloutShelf::Claim> FolderShelf::claim(const std::vector<fs::path>& frames, const std::string& who) {
    return claim_frames(root_, frames, who);
}

void FolderShelf::begin(RolloutRecord& record, const std::vector<RolloutEntry>& entries) {
    record.number = 1;
    std::error_code failed;
    for (const fs::directory_entry& entry : fs::directory_iterator(root_, failed))
        record.number = std::max(record.number, number_of(entry.path()) + 1);
    // The number belongs to whoever makes the folder.
    while (!make_folder_durable(folder(record.number))) ++record.number;
    const fs::path in = folder(record.number);
    try {
        // Until it is begun nobody may take it for one that stopped.
        const auto beginning = FileLock::try_own(in / "beginning");
        const auto [plan, data] = packed(entries);
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
        write_atomic(in / "data", data);
        write_atomic(in / "plan.json", plan);
        record.status = RolloutStatus::writing;
        set_status(record.number, record.status);
    } catch (...) {
        std::error_code ignored;
        fs::remove_all(in, ignored);  // nothing was touched yet
        throw;
    }
}

RolloutRecord FolderShelf::record(int number) {
    RolloutRecord now = read_record(folder(number), number);
    if (now.status == RolloutStatus::damaged) throw store_error(now.problem);
    return now;
}

std::vector<RolloutEntry> FolderShelf::entries(const RolloutRecord& record) {
    const fs::path in = folder(record.number);
    try {
        return unpacked(read_file(in / "plan.json", plan_limit), read_file(in / "data", plan_limit));
    } catch (const std::exception& error) {
        throw store_error(
            fmt::format("The record of rollout {} in {} is damaged ({}); restore that folder from a copy.",
                        record.number, in.string(), without_stop(error.what())));
    }
}

void FolderShelf::set_status(int number, RolloutStatus status) {
    write_atomic(folder(number) / "status", to_string(status));
}

void FolderShelf::give_up(int number) {
    std::error_code none;
    if (fs::exists(folder(number) / "beginning", none) && !FileLock::try_own(folder(number) / "beginning"))
        throw input_error(fmt::format("Rollout {} is about to begin; wait a moment, then try again.", number));
    set_status(number, RolloutStatus::rolled_back);
    write_atomic(folder(number) / "data", "");
    write_atomic(folder(number) / "plan.json", json_text({{"frames", json::array()}}));
}

}  // namespace optrel
