// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/queue/queue_kinds.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "base/error.h"
#include "base/files.h"
#include "base/json_text.h"
#include "base/paths.h"
#include "base/station.h"
#include "base/words.h"
#include "calibration/run.h"
#include "studio/checks/drift.h"
#include "studio/checks/drift_json.h"
#include "studio/exports/account.h"
#include "studio/exports/exporting.h"
#include "studio/exports/free_name.h"
#include "studio/intake/take_in.h"
#include "studio/rollout/rolling.h"

namespace optrel {
namespace fs = std::filesystem;

namespace {

using nlohmann::json;

/// Size limit for the text of a portion, bytes.
constexpr std::size_t largest_document = 16u << 20;

/// Maximum number of remarks on single frames in a result.
constexpr std::size_t most_told = 20;

void require_root(const fs::path& file) {
    if (const std::string root = RootMap::missing(file); !root.empty())
        throw RootMissing(fmt::format("The root '{}' has no folder at this station.", root));
}

void require_here(const fs::path& file) {
    std::error_code none;
    if (fs::exists(file, none)) return;
    require_root(file);
    throw WorkDeferred(fmt::format("{} is not to be had at this station.", printable(file.string())));
}

/// Path of a portion at this station. Anybody who may work in the store can insert portions by hand, so invalid ones
/// are refused.
fs::path sound_path(Store& store, const json& kept) {
    const std::string said = kept.get<std::string>();
    const fs::path path = store.here(said);
    const bool leads_out = std::any_of(path.begin(), path.end(), [](const fs::path& step) { return step == ".."; });
    const bool whole = path.is_absolute() || !RootMap::missing(path).empty();
    if (said.size() > 8000 || leads_out || !whole)
        throw input_error(fmt::format("'{}' is no path that a portion of work can have; cancel that job.",
                                      printable(said.substr(0, 200))));
    return path;
}

/// Output folder: with a server store it must be inside a root of this station, after resolving links.
fs::path sound_target(Store& store, const json& kept) {
    const fs::path folder = sound_path(store, kept);
    if (!is_server_address(store.source().address())) return folder;
    require_root(folder);
    std::error_code failed;
    const fs::path real = fs::weakly_canonical(folder, failed);
    for (const RootPlace& r : store.roots().all())
        if (!failed && r.station == this_station() && lies_within(real, fs::weakly_canonical(r.folder, failed)))
            return folder;
    throw input_error(fmt::format("{} lies in no root of this station, so nothing is written there; cancel that job.",
                                  printable(folder.string())));
}

PortionResult index(Store& store, const json& what, Progress& progress) {
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

PortionResult measure(Store& store, const json& what, Progress& progress) {
    const int run = what.at("run"), position = what.at("position");
    const RunFrame before = store.runs().frame(run, position);
    if (before.settled())
        return {json_text({{"frame", printable(before.path.filename().string())}, {"done", "before"}})};
    require_here(before.path);
    RunFrame frame =
        measure_frame(before.path, MeasureAs::automatic, ChartSpec::parse(store.runs().chart_of(run)), progress);
    return {json_text({{"frame", printable(frame.path.filename().string())}, {"problem", frame.problem}}),
            [run, frame](Store& into) { into.runs().put_measurement(run, frame); }};
}

PortionResult rehearse(Store& store, const json& what, Progress& progress) {
    const int number = what.at("revision");
    const std::optional<Revision> revision = store.baselines().revision(number);
    if (!revision) throw input_error(fmt::format("The store has no revision {}; cancel that job.", number));
    auto frames = std::make_shared<RehearsalRequest::Frames>();
    if (what.contains("from"))
        *frames = store.frames().within(what.at("from").get<std::string>(), what.at("to").get<std::string>());
    else
        for (const json& path : what.at("frames"))
            if (auto f = store.frames().find(sound_path(store, path))) frames->push_back(std::move(*f));
    if (!frames->empty()) require_here(frames->front().path.parent_path());
    const Rehearsal found = rehearse_frames({frames, {}, what.at("renew_hand_set"), true, profiles_of(store)},
                                            *store.registry().fleet(), *revision, progress);
    json outcomes = json::object(), fields = json::object(), unreadable = json::array();
    for (const auto& [outcome, n] : found.by_outcome()) outcomes[to_string(outcome)] = n;
    for (const RehearsedFrame& f : found.frames) {
        for (const FieldChange& c : f.writes ? f.changes : std::vector<FieldChange>())
            fields[info(c.field).id] = fields.value(info(c.field).id, 0) + 1;
        if (f.outcome == Outcome::unreadable && unreadable.size() < most_told) unreadable.push_back(f.reason);
    }
    return {json_text({{"revision", number},
                       {"frames", found.frames.size()},
                       {"writes", found.writes()},
                       {"only_number", found.only_number()},
                       {"outcomes", outcomes},
                       {"fields", fields},
                       {"unreadable", unreadable}})};
}

PortionResult roll(Store& store, const json& what, Progress& progress) {
    RolloutReport report;
    try {
        report = go_on(store, what.at("number"), true, progress);
    } catch (const FramesInUse& busy) {
        throw WorkDeferred(busy.what(), false);
    }
    if (report.lost) throw WorkDeferred("Another station has its frames by now.", false);
    if (!report.failed.empty()) throw WorkDeferred(report.failed.front());
    return {json_text({{"written", report.written}, {"kept", report.kept}})};
}

/// Searches for frames that other portions reported as missing.
PortionResult look_for_gone(Store& store, const QueuedPortion& portion, Progress& progress) {
    DriftReport report;
    for (const QueuedPortion& p : store.queue().results(portion.job)) {
        if (p.position == portion.position) continue;
        if (p.state == PortionState::waiting) throw WorkDeferred("The other portions of this check come first.", false);
        if (p.state == PortionState::done) add_drift(report, store, parse_json(p.result, "The result of a portion"));
    }
    std::erase_if(report.findings, [](const DriftFinding& d) { return d.kind != Drift::frame_gone; });
    report.frames = 0;
    look_for_moved(store, report, progress);
    return {json_text(drift_json(store, report))};
}

/// When a share is not mounted, all its frames would seem to be missing.
void require_shares(Store& store, const std::vector<FrameRecord>& frames) {
    std::error_code none;
    for (const RootPlace& r : store.roots().all())
        if (r.station == this_station() && (fs::is_empty(r.folder, none) || none))
            throw WorkDeferred(fmt::format("The folder of the root '{}' is empty or away at this station.", r.root));
    const bool shared = is_server_address(store.source().address());
    fs::path last;
    for (const FrameRecord& f : frames) {
        require_root(f.path);
        const fs::path folder = f.path.parent_path();
        if (!shared || folder == last) continue;
        last = folder;
        if (!fs::is_directory(folder, none) && store.kept(f.path).front() == '/')
            throw WorkDeferred(
                fmt::format("{} is not to be had at this station and lies in no root, so nobody can tell whether it is "
                            "gone.",
                            printable(folder.string())));
    }
}

PortionResult check_sidecars(Store& store, const QueuedPortion& portion, const json& what, Progress& progress) {
    if (what.contains("gone")) return look_for_gone(store, portion, progress);
    const std::vector<FrameRecord> frames =
        store.frames().within(what.at("from").get<std::string>(), what.at("to").get<std::string>());
    require_shares(store, frames);
    return {json_text(drift_json(store, check_frames(store, frames, progress)))};
}

/// Whether a file is the unfinished export of this frame by a station that died. Compared by the frame's contents,
/// because a frame of the same name may be in another folder.
bool written_of(const fs::path& out, const fs::path& frame) {
    try {
        return read_account(out).original_hash == file_hash(frame);
    } catch (const Error&) {
        return false;
    }
}

PortionResult write_out(Store& store, const QueuedPortion& portion, const json& what, Progress& progress) {
    const fs::path frame = sound_path(store, what.at("frame"));
    const fs::path folder = sound_target(store, what.at("folder"));
    require_here(frame);
    require_root(folder);
    const Delivery delivery =
        delivery_from_json(what.value("delivery", what.value("recipe", json())).dump(), "The delivery of a portion");
    const FrameDevelopment facts = development_from_store(store, frame);
    // A station that died may have written the file under the name that it noted.
    const fs::path begun = portion.noted.empty() ? fs::path() : store.here(portion.noted);
    if (!begun.empty()) sweep_parts(begun.parent_path());
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

}  // namespace

namespace {

DividedPortion divided_as_read(Store& store, const QueuedPortion& portion) {
    DividedPortion out;
    const json what = parse_json(portion.document, fmt::format("Job {} of the queue", portion.job));
    const auto put = [&](json part) { out.portions.push_back(json_text(part)); };
    for (const char* list : {"files", "frames"}) {
        if (!what.contains(list)) continue;
        if (what[list].size() == 1) out.about = printable(what[list][0].get<std::string>());
        if (what[list].size() < 2) return out;
        for (const json& one : what[list]) {
            json part = what;
            part[list] = json::array({one});
            put(part);
        }
        return out;
    }
    if (what.contains("frame")) out.about = printable(what["frame"].get<std::string>());
    if (!what.contains("from")) return out;
    const std::vector<FrameRecord> frames =
        store.frames().within(what.at("from").get<std::string>(), what.at("to").get<std::string>());
    if (frames.size() == 1) out.about = printable(store.kept(frames[0].path));
    if (frames.size() < 2) return out;
    // Twenty parts; a failing part is divided again until each part has one frame.
    const std::size_t size = (frames.size() + 19) / 20;
    for (std::size_t at = 0; at < frames.size(); at += size) {
        json part = what;
        part["from"] = store.kept(frames[at].path);
        part["to"] = store.kept(frames[std::min(at + size, frames.size()) - 1].path);
        put(part);
    }
    return out;
}

}  // namespace

DividedPortion divided(Store& store, const QueuedPortion& portion) {
    try {
        return divided_as_read(store, portion);
    } catch (const std::exception&) {
        return {};  // an unreadable portion cannot be divided
    }
}

PortionResult do_portion(Store& store, const QueuedPortion& portion, Progress& progress) {
    if (portion.document.size() > largest_document)
        throw input_error(
            fmt::format("A portion of job {} has {} MB, more than any that Optrel makes; cancel that job.", portion.job,
                        portion.document.size() >> 20));
    const json what = parse_json(portion.document, fmt::format("Job {} of the queue", portion.job));
    if (portion.kind == "index") return index(store, what, progress);
    if (portion.kind == "measure") return measure(store, what, progress);
    if (portion.kind == "rehearse") return rehearse(store, what, progress);
    if (portion.kind == "rollout") return roll(store, what, progress);
    if (portion.kind == "check") return check_sidecars(store, portion, what, progress);
    if (portion.kind == "export") return write_out(store, portion, what, progress);
    throw input_error(fmt::format("This version does not know work of the kind '{}'.", portion.kind));
}

}  // namespace optrel
