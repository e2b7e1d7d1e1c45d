#include "rollout/rollout.h"

#include <fmt/chrono.h>
#include <fmt/format.h>

#include <algorithm>
#include <set>

#include "base/error.h"
#include "base/files.h"
#include "base/json_text.h"
#include "base/numbers.h"
#include "base/words.h"

namespace optrel {
namespace {

using nlohmann::json;
namespace fs = std::filesystem;

constexpr std::uintmax_t plan_limit = 4ull << 30;

const char* status_names[] = {"preparing", "writing", "done", "rolling back", "rolled back", "damaged"};

struct Entry {
    fs::path frame;
    std::optional<std::string> before;
    std::string after;
};

void set_status(const RolloutRecord& r, RolloutStatus status) { write_atomic(r.folder / "status", to_string(status)); }

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
    r.folder = folder;
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
    } catch (const std::exception& error) {
        r.status = RolloutStatus::damaged;
        r.problem = fmt::format("The record of a rollout in {} is damaged ({}); restore that folder from a copy.",
                                folder.string(), without_stop(error.what()));
    }
    return r;
}

std::vector<Entry> read_entries(const RolloutRecord& r) {
    try {
        const json plan = parse_json(read_file(r.folder / "plan.json", plan_limit), "plan.json");
        const std::string data = read_file(r.folder / "data", plan_limit);
        std::vector<Entry> entries;
        for (const json& j : plan.at("frames")) {
            Entry e;
            e.frame = j.at("frame").get<std::string>();
            const auto piece = [&](const json& at) {
                const auto from = at.at(0).get<std::size_t>(), length = at.at(1).get<std::size_t>();
                if (from > data.size() || length > data.size() - from) throw input_error("its data end too early");
                return data.substr(from, length);
            };
            if (!j.at("before").is_null()) e.before = piece(j["before"]);
            e.after = piece(j.at("after"));
            entries.push_back(std::move(e));
        }
        return entries;
    } catch (const std::exception& error) {
        throw store_error(
            fmt::format("The record of rollout {} in {} is damaged ({}); restore that folder from a copy.", r.number,
                        r.folder.string(), without_stop(error.what())));
    }
}

FileLock lock_rollouts(const fs::path& root) {
    if (auto lock = FileLock::try_own(root / "lock")) return std::move(*lock);
    std::string which = "A rollout";
    if (const auto all = list_rollouts(root); !all.empty())
        which = fmt::format("Rollout {}{}", all.front().number,
                            all.front().author.empty() ? "" : " of " + all.front().author);
    throw input_error(fmt::format(
        "{} is under way on this store at another station or in another window; wait until it is done, then try again.",
        which));
}

/// Brings one sidecar to its other side, and notes what became of it.
void carry_one(const Entry& e, bool forward, RolloutReport& report) {
    const std::optional<std::string> after = e.after;
    std::error_code none;
    if (forward && !fs::exists(e.frame, none)) {
        report.kept.push_back(fmt::format("The frame {} is gone, so nothing was written for it.", e.frame.string()));
        return;
    }
    const Carried carried = forward ? carry_sidecar(e.frame, e.before, after) : carry_sidecar(e.frame, after, e.before);
    if (carried == Carried::written) ++report.written;
    if (carried == Carried::changed)
        report.kept.push_back(
            fmt::format("{} was changed since and is kept as it is.", sidecar_path(e.frame).string()));
}

/// Brings every sidecar from one side of the plan to the other. The caller holds the lock of the rollouts.
RolloutReport carry(const RolloutRecord& record, bool forward, Progress& progress) {
    RolloutReport report;
    report.record = record;
    std::vector<Entry> entries = read_entries(record);
    // Backwards, removals free the space that the others may need.
    if (!forward) std::stable_partition(entries.begin(), entries.end(), [](const Entry& e) { return !e.before; });
    std::set<fs::path> folders;
    progress.start(static_cast<int>(entries.size()), forward ? "Rolling out" : "Rolling back");
    for (const Entry& e : entries) {
        progress.check();
        folders.insert(e.frame.parent_path());
        try {
            carry_one(e, forward, report);
        } catch (const std::exception& error) {
            report.failed.push_back(error.what());
        }
        progress.step();
    }
    for (const fs::path& folder : folders) sweep_parts(folder);
    report.record.status = forward ? RolloutStatus::writing : RolloutStatus::rolling_back;
    if (!report.complete()) return report;
    report.record.status = forward ? RolloutStatus::done : RolloutStatus::rolled_back;
    set_status(record, report.record.status);
    return report;
}

/// The sidecars to be written, as a plan over a string of all their bytes. Throws when one is not as it was rehearsed.
std::pair<json, std::string> plan_of(const Rehearsal& rehearsal, Progress& progress) {
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
            throw input_error(fmt::format("{} was changed since the rehearsal; nothing was written, rehearse again.",
                                          sidecar_path(f.path).string()));
        json before = f.before ? keep(*f.before) : json(nullptr);
        json after = keep(f.after);
        frames.push_back({{"frame", f.path.string()}, {"before", before}, {"after", after}});
    }
    return {{{"frames", frames}}, data};
}

/// A folder of its own for the next rollout: the number belongs to whoever makes the folder.
void claim_number(RolloutRecord& record, const fs::path& root) {
    record.number = 1;
    std::error_code failed;
    for (const fs::directory_entry& entry : fs::directory_iterator(root, failed))
        if (const auto number = parse_integer(entry.path().filename().string());
            number && *number > 0 && *number < 100000000)
            record.number = std::max(record.number, static_cast<int>(*number) + 1);
    for (;; ++record.number) {
        record.folder = root / fmt::format("{:06d}", record.number);
        if (make_folder_durable(record.folder)) return;
    }
}

}  // namespace

std::string to_string(RolloutStatus status) { return status_names[static_cast<int>(status)]; }

std::vector<RolloutRecord> list_rollouts(const fs::path& root) {
    std::vector<RolloutRecord> out;
    std::error_code none;
    for (const fs::directory_entry& entry : fs::directory_iterator(root, none))
        if (const auto number = parse_integer(entry.path().filename().string());
            number && *number > 0 && entry.is_directory(none))
            out.push_back(read_record(entry.path(), static_cast<int>(*number)));
    std::sort(out.begin(), out.end(),
              [](const RolloutRecord& a, const RolloutRecord& b) { return a.number > b.number; });
    return out;
}

RolloutReport roll_out(const Rehearsal& rehearsal, int current_revision, const fs::path& root,
                       const std::string& author, Progress& progress) {
    if (rehearsal.revision != current_revision)
        throw input_error(fmt::format("Revision {} was rehearsed, but revision {} is current now; rehearse again.",
                                      rehearsal.revision, current_revision));
    const FileLock lock = lock_rollouts(root);
    const auto [plan, data] = plan_of(rehearsal, progress);
    RolloutRecord record;
    record.revision = rehearsal.revision;
    record.author = author;
    record.time = fmt::format("{:%Y-%m-%dT%H:%M:%SZ}", fmt::gmtime(std::time(nullptr)));
    record.frames = static_cast<int>(plan["frames"].size());
    claim_number(record, root);
    try {
        write_atomic(record.folder / "record.json", json_text({{"number", record.number},
                                                               {"revision", record.revision},
                                                               {"author", author},
                                                               {"time", record.time},
                                                               {"frames", record.frames}},
                                                              1));
        write_atomic(record.folder / "data", data);
        write_atomic(record.folder / "plan.json", json_text(plan, 1));
        set_status(record, RolloutStatus::writing);
    } catch (...) {
        std::error_code ignored;
        fs::remove_all(record.folder, ignored);  // nothing was touched yet
        throw;
    }
    RolloutReport report = carry(record, true, progress);
    for (const RehearsedFrame& f : rehearsal.frames)
        if (f.outcome == Outcome::unreadable) report.unreadable.push_back(f.reason);
    return report;
}

namespace {

/// The record as it is now, under the lock: another program may have gone on with it meanwhile.
RolloutRecord read_again(const RolloutRecord& record) {
    const RolloutRecord now = read_record(record.folder, record.number);
    if (now.status == RolloutStatus::damaged) throw store_error(now.problem);
    return now;
}

}  // namespace

RolloutReport resume(const RolloutRecord& record, Progress& progress) {
    const FileLock lock = lock_rollouts(record.folder.parent_path());
    const RolloutRecord now = read_again(record);
    if (now.status == RolloutStatus::preparing)
        throw input_error(
            fmt::format("Rollout {} stopped before it wrote anything, so there is nothing to go on with; rehearse and "
                        "roll out again.",
                        now.number));
    return carry(now, now.status == RolloutStatus::writing || now.status == RolloutStatus::done, progress);
}

RolloutReport roll_back(const RolloutRecord& record, Progress& progress) {
    const FileLock lock = lock_rollouts(record.folder.parent_path());
    RolloutRecord now = read_again(record);
    if (now.status == RolloutStatus::preparing) {
        set_status(now, now.status = RolloutStatus::rolled_back);
        write_atomic(now.folder / "data", "");
        write_atomic(now.folder / "plan.json", json_text({{"frames", json::array()}}));
        RolloutReport report;
        report.record = now;
        return report;
    }
    try {
        if (now.status != RolloutStatus::rolled_back) set_status(now, RolloutStatus::rolling_back);
    } catch (const Error&) {
        // On a full disk the word cannot be kept; the sidecars tell by themselves how far it came.
    }
    return carry(now, false, progress);
}

}  // namespace optrel
