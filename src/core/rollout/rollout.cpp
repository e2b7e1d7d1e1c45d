#include "rollout/rollout.h"

#include <fmt/chrono.h>
#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "base/error.h"
#include "base/files.h"

namespace optrel {
namespace {

using nlohmann::json;
namespace fs = std::filesystem;

const char* status_names[] = {"writing", "done", "rolling back", "rolled back"};

struct Entry {
    fs::path frame;
    std::optional<std::string> before;
    std::string after;
};

void set_status(const RolloutRecord& r, RolloutStatus status) { write_atomic(r.folder / "status", status_names[static_cast<int>(status)]); }

RolloutRecord read_record(const fs::path& folder) {
    RolloutRecord r;
    r.folder = folder;
    const json j = json::parse(read_file(folder / "record.json"));
    r.number = j.at("number");
    r.revision = j.at("revision");
    r.author = j.at("author");
    r.time = j.at("time");
    r.frames = j.at("frames");
    const std::string status = read_file(folder / "status");
    for (int i = 0; i < 4; ++i)
        if (status == status_names[i]) r.status = static_cast<RolloutStatus>(i);
    return r;
}

std::vector<Entry> read_entries(const RolloutRecord& r) {
    try {
        const json plan = json::parse(read_file(r.folder / "plan.json"));
        const std::string data = read_file(r.folder / "data");
        std::vector<Entry> entries;
        for (const json& j : plan.at("frames")) {
            Entry e;
            e.frame = j.at("frame").get<std::string>();
            const auto piece = [&](const json& at) { return data.substr(at.at(0).get<std::size_t>(), at.at(1).get<std::size_t>()); };
            if (!j.at("before").is_null()) e.before = piece(j["before"]);
            e.after = piece(j.at("after"));
            entries.push_back(std::move(e));
        }
        return entries;
    } catch (const std::exception& error) {
        throw store_error(fmt::format("The record of rollout {} in {} is damaged ({}); restore that folder from a copy.", r.number, r.folder.string(), error.what()));
    }
}

/// Brings every sidecar from one side of the plan to the other. Sidecars that equal neither are kept and told.
RolloutReport carry(const RolloutRecord& record, bool forward, Progress& progress) {
    RolloutReport report;
    report.record = record;
    const std::vector<Entry> entries = read_entries(record);
    progress.start(static_cast<int>(entries.size()), forward ? "Rolling out" : "Rolling back");
    for (const Entry& e : entries) {
        progress.check();
        const std::optional<std::string> now = read_sidecar(e.frame);
        const std::optional<std::string> after = e.after;
        const std::optional<std::string>&from = forward ? e.before : after, &to = forward ? after : e.before;
        if (now == from && now != to) {
            if (to)
                write_atomic(sidecar_path(e.frame), *to);
            else
                remove_durable(sidecar_path(e.frame));
            ++report.written;
        } else if (now != to) {
            report.kept.push_back(fmt::format("{} was changed since and is kept as it is.", sidecar_path(e.frame).string()));
        }
        progress.step();
    }
    report.record.status = forward ? RolloutStatus::done : RolloutStatus::rolled_back;
    set_status(record, report.record.status);
    return report;
}

}  // namespace

std::string to_string(RolloutStatus status) { return status_names[static_cast<int>(status)]; }

std::vector<RolloutRecord> list_rollouts(const fs::path& root) {
    std::vector<RolloutRecord> out;
    std::error_code none;
    for (const fs::directory_entry& entry : fs::directory_iterator(root, none)) {
        // A folder without a status was stopped before its first sidecar was touched; there is nothing to tell of it.
        if (!fs::exists(entry.path() / "status")) continue;
        try {
            out.push_back(read_record(entry.path()));
        } catch (const std::exception& error) {
            throw store_error(fmt::format("The record of a rollout in {} is damaged ({}); restore that folder from a copy.", entry.path().string(), error.what()));
        }
    }
    std::sort(out.begin(), out.end(), [](const RolloutRecord& a, const RolloutRecord& b) { return a.number > b.number; });
    return out;
}

RolloutReport roll_out(const Rehearsal& rehearsal, int current_revision, const fs::path& root, const std::string& author, Progress& progress) {
    if (rehearsal.revision != current_revision)
        throw input_error(fmt::format("Revision {} was rehearsed, but revision {} is current now; rehearse again.", rehearsal.revision, current_revision));
    int number = 1;
    std::error_code failed;
    for (const fs::directory_entry& entry : fs::directory_iterator(root, failed)) number = std::max(number, std::atoi(entry.path().filename().c_str()) + 1);
    json frames = json::array();
    std::string data;
    const auto keep = [&](const std::string& bytes) {
        const json at = {data.size(), bytes.size()};
        data += bytes;
        return at;
    };
    for (const RehearsedFrame& f : rehearsal.frames) {
        if (!f.writes) continue;
        progress.check();
        if (read_sidecar(f.path) != f.before)
            throw input_error(fmt::format("{} was changed since the rehearsal; nothing was written, rehearse again.", sidecar_path(f.path).string()));
        json before = f.before ? keep(*f.before) : json(nullptr);
        json after = keep(f.after);
        frames.push_back({{"frame", f.path.string()}, {"before", before}, {"after", after}});
    }
    RolloutRecord record;
    record.number = number;
    record.folder = root / fmt::format("{:06d}", number);
    record.revision = rehearsal.revision;
    record.author = author;
    record.time = fmt::format("{:%Y-%m-%dT%H:%M:%SZ}", fmt::gmtime(std::time(nullptr)));
    record.frames = static_cast<int>(frames.size());
    fs::create_directories(record.folder, failed);
    if (failed) throw file_error(fmt::format("Cannot make the folder {}: {}; nothing was rolled out.", record.folder.string(), failed.message()));
    write_atomic(record.folder / "data", data);
    write_atomic(record.folder / "plan.json", json{{"frames", frames}}.dump(1));
    write_atomic(record.folder / "record.json",
                 json{{"number", number}, {"revision", record.revision}, {"author", author}, {"time", record.time}, {"frames", record.frames}}.dump(1));
    set_status(record, RolloutStatus::writing);
    return carry(record, true, progress);
}

RolloutReport resume(const RolloutRecord& record, Progress& progress) {
    return carry(record, record.status == RolloutStatus::writing || record.status == RolloutStatus::done, progress);
}

RolloutReport roll_back(const RolloutRecord& record, Progress& progress) {
    if (record.status != RolloutStatus::rolled_back) set_status(record, RolloutStatus::rolling_back);
    return carry(record, false, progress);
}

}  // namespace optrel
