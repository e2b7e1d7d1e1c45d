// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/checks/drift.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>
#include <set>
#include <unordered_map>

#include "base/error.h"
#include "base/figure_text.h"
#include "base/files.h"
#include "base/parallel.h"
#include "base/paths.h"
#include "base/station.h"
#include "base/words.h"
#include "frames/content_mark.h"
#include "rollout/rehearse.h"
#include "studio/frames/knowledge.h"
#include "studio/intake/take_in.h"
#include "studio/profiles/versions_in_use.h"
#include "studio/rollout/relocating_rollout_store.h"
#include "studio/rollout/rolling.h"

namespace optrel {
namespace fs = std::filesystem;

std::string to_string(Drift kind) {
    static constexpr const char* names[] = {"sidecar missing",    "older",      "newer",      "changed by hand",
                                            "changed by another", "unreadable", "frame gone", "moved",
                                            "orphaned",           "behind"};
    return names[static_cast<int>(kind)];
}

bool settled_without_a_person(Drift kind) { return kind == Drift::missing || kind == Drift::moved; }

std::string what_settles(Drift kind) {
    static constexpr const char* words[] = {
        "Settling writes it again as it was; or roll that rollout back, if it is to stay away.",
        "Rehearse and roll out over these frames.",
        "Somebody brought it from another studio, or the store is a copy that is behind; keep it, or roll out over it.",
        "Nothing: what is set by hand stays.",
        "Rehearse over these frames, look at what would change, and roll out.",
        "Look at the file; move it away, then settle.",
        "Bring the frame back, or roll back what was written for it.",
        "Settling tells the store the new place, and takes the sidecar along.",
        "Look for its frame; delete the sidecar if the frame is meant to be gone.",
        "Rehearse and roll out over these frames; or make the version that they had current again."};
    return words[static_cast<int>(kind)];
}

namespace {

/// Contents that the latest rollout wrote for each frame, as hashes because there may be hundreds of thousands.
struct Left {
    int rollout = 0;
    bool any = false;  ///< whether there is a sidecar
    std::uint64_t hash = 0;
};

std::unordered_map<std::string, Left> left_by_rollouts(const RelocatedRollouts& shelf, Progress& progress) {
    std::unordered_map<std::string, Left> out;
    std::vector<RolloutRecord> all = shelf.list();
    std::reverse(all.begin(), all.end());
    for (const RolloutRecord& r : all) {
        progress.check();
        const bool forward = r.status == RolloutStatus::done;
        if (!forward && r.status != RolloutStatus::rolled_back) continue;  // open rollouts are resumed, not checked
        for (const RolloutEntry& e : shelf.entries(r)) {
            const auto& bytes = forward ? e.after : e.before;
            const Left left{r.number, bytes.has_value(), bytes ? fnv1a(*bytes) : 0};
            // A rollout that was rolled back does not count; an earlier one does.
            if (forward)
                out[e.frame.string()] = left;
            else
                out.try_emplace(e.frame.string(), left);
        }
    }
    return out;
}

/// Reads the contents again from the rollouts.
class LeftBytes {
public:
    explicit LeftBytes(const RelocatedRollouts& shelf) : shelf_(shelf) {}
    const std::optional<std::string>& of(const fs::path& frame, int rollout) {
        auto [it, fresh] = by_rollout_.try_emplace(rollout);
        if (fresh) {
            const RolloutRecord record = shelf_.record(rollout);
            const bool forward = record.status == RolloutStatus::done;
            for (RolloutEntry& e : shelf_.entries(record))
                it->second[e.frame.string()] = forward ? std::move(e.after) : std::move(e.before);
        }
        return it->second[frame.string()];
    }

private:
    const RelocatedRollouts& shelf_;
    std::map<int, std::map<std::string, std::optional<std::string>>> by_rollout_;
};

/// A checked frame.
struct Look {
    enum class What { as_left, gone, differs, unreadable } what = What::as_left;
    std::optional<std::string> bytes;
    std::string problem;
};

Look look_at(const fs::path& frame, const Left* left) {
    Look out;
    std::error_code none;
    if (!fs::exists(frame, none)) return {Look::What::gone, {}, {}};
    if (!fs::is_regular_file(frame, none))
        return {Look::What::unreadable,
                {},
                fmt::format("{} is no file any more: a folder, a pipe or a device stands in its place.",
                            printable(frame.string()))};
    try {
        out.bytes = read_sidecar(frame);
    } catch (const std::exception& error) {
        return {Look::What::unreadable, {}, error.what()};
    }
    const bool same = left ? out.bytes.has_value() == left->any && (!out.bytes || fnv1a(*out.bytes) == left->hash)
                           : !out.bytes.has_value();
    if (!same) out.what = Look::What::differs;
    return out;
}

/// Classifies a sidecar that differs; nothing when only other programs have added to it.
std::optional<DriftFinding> kind_of(const fs::path& frame, const Look& look, const Left* left, int current,
                                    LeftBytes& bytes) {
    DriftFinding out{Drift::missing, frame, {}, {}, left ? left->rollout : 0};
    if (!look.bytes) {
        out.what = fmt::format("rollout {} wrote it", left->rollout);
        return out;
    }
    Sheet now;
    try {
        now = sheet_from_xmp(*look.bytes, sidecar_path(frame).string());
    } catch (const std::exception& error) {
        out.kind = Drift::unreadable;
        out.what = error.what();
        return out;
    }
    const auto then_bytes = left ? bytes.of(frame, left->rollout) : std::nullopt;
    Sheet then;
    if (then_bytes) then = sheet_from_xmp(*then_bytes, sidecar_path(frame).string());
    // Properties of other programs do not count as changes.
    if (left && left->any && now == then) return std::nullopt;
    if (now.revision > current) {
        out.kind = Drift::newer;
        out.what = fmt::format("revision {}; this studio is at {}", now.revision, current);
    } else if (now.revision < then.revision) {
        out.kind = Drift::older;
        out.what = fmt::format("revision {}; rollout {} wrote {}", now.revision, left->rollout, then.revision);
    } else if (now.baseline == then.baseline && now.revision == then.revision) {
        out.kind = Drift::by_hand;
        out.what = to_string(now.state());
    } else {
        out.kind = Drift::by_another;
        const auto changes = changes_between(then.baseline, now.baseline);
        out.what = changes.empty() ? fmt::format("revision {} in place of {}", now.revision, then.revision)
                                   : fmt::format("{} {} → {}", info(changes.front().field).label,
                                                 changes.front().before.text(), changes.front().after.text());
        if (changes.size() > 1) out.what += fmt::format(", and {} more", changes.size() - 1);
    }
    return out;
}

/// Finds frames with an older version of their lens profile.
class BehindLooker {
public:
    explicit BehindLooker(const Store& store) : fleet_(store.registry().fleet()), versions_(profiles_of(store)) {}

    std::optional<DriftFinding> look(const FrameRecord& frame, const Look& look, const Left* left) {
        if (!look.bytes || look.bytes->find("optrel:profile=") == std::string::npos) return std::nullopt;
        const std::shared_ptr<const Sheet> sheet = sheet_in(*look.bytes, frame.path);
        if (!sheet) return std::nullopt;
        const auto change = versions_.change(*sheet, know(frame.path, frame.metadata, *fleet_).metadata);
        if (!change) return std::nullopt;
        return DriftFinding{Drift::behind,
                            frame.path,
                            {},
                            fmt::format("lens profile {} → {}: places move by up to {}", change->before, change->after,
                                        figure_text(figures::shift, change->moves_px)),
                            left ? left->rollout : 0};
    }

private:
    std::shared_ptr<const Sheet> sheet_in(const std::string& bytes, const fs::path& frame) {
        const auto [it, fresh] = sheets_.try_emplace(fnv1a(bytes));
        if (fresh) try {
                it->second = std::make_shared<const Sheet>(sheet_from_xmp(bytes, sidecar_path(frame).string()));
            } catch (const Error&) {
                // Reported as damaged already.
            }
        return it->second;
    }

    std::shared_ptr<const Fleet> fleet_;
    VersionsInUse versions_;
    std::unordered_map<std::uint64_t, std::shared_ptr<const Sheet>> sheets_;  ///< by hash of the contents
};

/// Unknown picture files, and sidecars without frames, in all known folders.
struct Strays {
    std::multimap<long long, fs::path> by_size;
    std::vector<fs::path> sidecars;
};

Strays strays_of(const std::vector<FrameRecord>& frames, std::vector<std::string>& problems, const Progress& progress) {
    std::set<fs::path> known, folders;
    for (const FrameRecord& f : frames) {
        known.insert(f.path);
        folders.insert(f.path.parent_path());
    }
    // A renamed folder is found from its parent, if the store knows other frames there.
    std::set<fs::path> roots;
    for (const fs::path& folder : folders) {
        fs::path there = folder;
        std::error_code none;
        while (there.has_relative_path() && !fs::is_directory(there, none)) there = there.parent_path();
        if (there.has_relative_path()) roots.insert(there);
    }
    Strays out;
    const std::string ending = sidecar_path("").string();
    for (const fs::path& root : roots) {
        // Subfolders are scanned with their parents.
        if (std::any_of(roots.begin(), roots.end(), [&](const fs::path& r) { return lies_within(root, r); })) continue;
        walk_files(
            root,
            [&](const fs::directory_entry& entry) {
                progress.check();
                std::error_code none;
                const fs::path& path = entry.path();
                const std::string name = path.filename().string();
                if (name.size() > ending.size() && name.ends_with(ending)) {
                    const fs::path frame = path.parent_path() / name.substr(0, name.size() - ending.size());
                    if (!fs::exists(frame, none)) out.sidecars.push_back(path);
                } else if (named_as_picture(path) && known.count(path) == 0 && entry.is_regular_file(none)) {
                    out.by_size.emplace(static_cast<long long>(entry.file_size(none)), path);
                }
            },
            problems);
    }
    return out;
}

/// Matches missing frames with unknown files by contents, and reports the remaining sidecars.
void find_moved(std::vector<DriftFinding>& findings, const std::vector<FrameRecord>& frames, DriftReport& report,
                const Progress& progress) {
    Strays strays = strays_of(frames, report.problems, progress);
    std::map<fs::path, const FrameRecord*> record_of;
    for (const FrameRecord& f : frames) record_of[f.path] = &f;
    std::map<fs::path, std::optional<ContentMark>> marks;  // unreadable, so it matches nothing
    std::set<fs::path> taken, left_behind;
    for (DriftFinding& d : findings) {
        if (d.kind != Drift::frame_gone) continue;
        progress.check();
        const auto known = record_of.find(d.frame);
        if (known == record_of.end()) continue;  // the store has learned its new path since
        const FrameRecord& record = *known->second;
        const auto [first, last] = strays.by_size.equal_range(record.size);
        for (auto it = first; it != last && record.mark.taken(); ++it) {
            if (taken.count(it->second) > 0) continue;
            std::optional<ContentMark>& mark = marks[it->second];
            try {
                if (!mark) mark = content_mark(it->second);
            } catch (const std::exception&) {
                mark = ContentMark();
            }
            if (mark != record.mark) continue;
            d.kind = Drift::moved;
            d.moved_to = it->second;
            d.what = "to " + printable(it->second.string());
            taken.insert(it->second);
            left_behind.insert(sidecar_path(d.frame));
            break;
        }
        if (d.kind == Drift::frame_gone) left_behind.insert(sidecar_path(d.frame));  // reported with its frame
    }
    for (const fs::path& sidecar : strays.sidecars)
        if (left_behind.count(sidecar) == 0)
            findings.push_back({Drift::orphaned, sidecar, {}, "no frame lies beside it", 0});
}

}  // namespace

namespace {

/// Checks frames in order. `start_after`: where to continue when cancelled before the first frame.
DriftReport look_at_frames(const Store& store, const std::vector<FrameRecord>& frames, const fs::path& start_after,
                           Progress& progress) {
    DriftReport report;
    const int current = store.baselines().current().number;
    const RelocatedRollouts shelf(store);
    const std::unordered_map<std::string, Left> left = left_by_rollouts(shelf, progress);
    LeftBytes bytes(shelf);
    BehindLooker versions(store);
    progress.start(static_cast<int>(frames.size()), "Checking sidecars");
    const auto left_of = [&](const fs::path& frame) {
        const auto it = left.find(frame.string());
        return it == left.end() ? nullptr : &it->second;
    };
    constexpr std::size_t portion = 2000;
    std::vector<Look> looks;
    for (std::size_t at = 0; at < frames.size(); at += portion) {
        const std::size_t n = std::min(portion, frames.size() - at);
        looks.assign(n, {});
        parallel_for(
            static_cast<int>(n),
            [&](int i) {
                if (progress.cancelled()) return;
                const fs::path& frame = frames[at + static_cast<std::size_t>(i)].path;
                looks[static_cast<std::size_t>(i)] = look_at(frame, left_of(frame));
                progress.step();
            },
            16);
        if (progress.cancelled()) {
            report.next = at == 0 ? start_after : frames[at - 1].path.path();
            return report;
        }
        for (std::size_t i = 0; i < n; ++i) {
            const fs::path& frame = frames[at + i].path;
            const Left* was = left_of(frame);
            switch (looks[i].what) {
                case Look::What::as_left:
                    if (auto d = versions.look(frames[at + i], looks[i], was)) report.findings.push_back(std::move(*d));
                    break;
                case Look::What::gone:
                    report.findings.push_back({Drift::frame_gone, frame, {}, "", was ? was->rollout : 0});
                    break;
                case Look::What::unreadable:
                    report.findings.push_back({Drift::unreadable, frame, {}, looks[i].problem, was ? was->rollout : 0});
                    break;
                case Look::What::differs:
                    if (auto d = kind_of(frame, looks[i], was, current, bytes))
                        report.findings.push_back(std::move(*d));
                    else if (auto b = versions.look(frames[at + i], looks[i], was))
                        report.findings.push_back(std::move(*b));
                    break;
            }
        }
        report.frames += static_cast<int>(n);
    }
    return report;
}

}  // namespace

DriftReport check_drift(const Store& store, const fs::path& start_after, Progress& progress) {
    const std::vector<FrameRecord> all = store.frames().all();
    if (!start_after.empty() && !store.frames().find(start_after))
        throw input_error(fmt::format("The store knows no frame {}; begin behind one that it knows, or at the first.",
                                      printable(start_after.string())));
    const auto from =
        std::upper_bound(all.begin(), all.end(), start_after,
                         [](const fs::path& p, const FrameRecord& f) { return p.string() < f.path.string(); });
    const std::vector<FrameRecord> frames(start_after.empty() ? all.begin() : from, all.end());
    DriftReport report = look_at_frames(store, frames, start_after, progress);
    if (report.frames == static_cast<int>(frames.size())) find_moved(report.findings, all, report, progress);
    return report;
}

DriftReport check_frames(const Store& store, const std::vector<FrameRecord>& frames, Progress& progress) {
    DriftReport report = look_at_frames(store, frames, {}, progress);
    progress.check();
    return report;
}

void look_for_moved(const Store& store, DriftReport& report, Progress& progress) {
    find_moved(report.findings, store.frames().all(), report, progress);
}

namespace {

void settle_missing(const DriftFinding& d, LeftBytes& bytes) {
    const auto& wanted = bytes.of(d.frame, d.rollout);
    if (replace_sidecar_if_unchanged(d.frame, std::nullopt, wanted) == SidecarWrite::changed)
        throw input_error(fmt::format("{} is there again and is kept as it is.", sidecar_path(d.frame).string()));
}

void settle_moved(const DriftFinding& d, Store& store) {
    const fs::path old = sidecar_path(d.frame);
    std::error_code none;
    if (fs::exists(fs::symlink_status(old, none))) {
        const std::string left_bytes = read_file(old);
        // Under the frame's lock, and never replacing an existing file.
        const SidecarWrite carried = replace_sidecar_if_unchanged(d.moved_to, std::nullopt, left_bytes);
        if (carried == SidecarWrite::changed)
            throw input_error(
                fmt::format("{} has a sidecar of its own beside the one that stayed at {}; keep one of them.",
                            d.moved_to.string(), old.string()));
        remove_durable(old);
    }
    store.frames().move(d.frame, d.moved_to);
}

}  // namespace

Settled settle_drift(Store& store, const std::vector<DriftFinding>& findings, Progress& progress) {
    std::vector<fs::path> frames;
    for (const DriftFinding& d : findings) frames.push_back(d.frame);
    RelocatingRolloutStore shelf(store);
    const auto lease = shelf.lease(frames, "A check at " + this_station());
    Settled out;
    const RelocatedRollouts rollouts(store);
    LeftBytes bytes(rollouts);
    BehindLooker versions(store);
    progress.start(static_cast<int>(findings.size()), "Settling");
    for (const DriftFinding& d : findings) {
        progress.check();
        progress.step();
        if (!settled_without_a_person(d.kind)) continue;
        try {
            if (d.kind == Drift::missing)
                settle_missing(d, bytes);
            else
                settle_moved(d, store);
            ++out.settled;
        } catch (const std::exception& error) {
            out.failed.push_back(error.what());
        }
    }
    return out;
}

}  // namespace optrel
