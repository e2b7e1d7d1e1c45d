// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/queue/queue_jobs.h"
#include "studio/calibration/run_work.h"
#include "studio/queue/queue_kinds.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>

#include "base/error.h"
#include "base/json_text.h"
#include "base/paths.h"
#include "base/words.h"
#include "studio/intake/take_in.h"
#include "studio/rollout/rolling.h"

namespace optrel {
namespace fs = std::filesystem;

namespace {

using nlohmann::json;

std::string counted_frames(std::size_t n) { return counted(static_cast<long long>(n), "frame", "frames"); }

int add(Store& store, const char* kind, const std::string& title, const std::vector<std::string>& portions) {
    return portions.empty() ? 0 : store.queue().add(kind, title, portions);
}

}  // namespace

const std::vector<std::string>& work_kinds() {
    static const std::vector<std::string> all = [] {
        std::vector<std::string> ids;
        for (const QueueKind* kind : queue_kinds()) ids.push_back(kind->id());
        return ids;
    }();
    return all;
}

int queue_index(Store& store, const std::vector<fs::path>& folders, bool enter, std::vector<std::string>& problems) {
    constexpr std::size_t size = 200;
    std::vector<std::string> portions;
    json files = json::array();
    const auto flush = [&] {
        if (!files.empty()) portions.push_back(json_text({{"files", files}, {"enter", enter}}));
        files = json::array();
    };
    std::string title;
    for (const fs::path& folder : folders) {
        title += (title.empty() ? "" : ", ") + printable(folder.string());
        for (const fs::path& file : frame_files(folder, problems)) {
            files.push_back(store.kept(file));
            if (files.size() == size) flush();
        }
    }
    flush();
    return add(store, "index", title, portions);
}

int queue_measure(Store& store, int run) {
    const std::string chart = store.runs().chart_of(run);
    for (const RunRecord& r : store.runs().all()) {
        if (r.id != run) continue;
        std::vector<std::string> portions;
        for (const int i : frames_to_measure(r)) portions.push_back(json_text({{"run", run}, {"position", i}}));
        return add(store, "measure", r.name, portions);
    }
    return 0;
}

int queue_rehearse(Store& store, const std::vector<FrameRecord>& frames, bool renew_hand_set, const std::string& of) {
    constexpr std::size_t size = 2000;
    const int revision = store.baselines().current().number;
    if (revision == 0)
        throw input_error("No revision is published yet, so there is nothing to rehearse; publish the draft first.");
    std::vector<std::string> portions;
    const auto put = [&](json what) {
        what["revision"] = revision;
        what["renew_hand_set"] = renew_hand_set;
        portions.push_back(json_text(what));
    };
    // For all frames, ranges replace a list of a million paths.
    if (static_cast<int>(frames.size()) == store.frames().count()) {
        for (const StoredFrames::Span& s : store.frames().spans(static_cast<int>(size)))
            put({{"from", s.first}, {"to", s.last}});
    } else {
        for (std::size_t from = 0; from < frames.size(); from += size) {
            json some = json::array();
            for (std::size_t i = from; i < std::min(frames.size(), from + size); ++i)
                some.push_back(store.kept(frames[i].path));
            put({{"frames", some}});
        }
    }
    return add(
        store, "rehearse",
        fmt::format("Revision {} over {}{}{}", revision, counted_frames(frames.size()), of.empty() ? "" : ": ", of),
        portions);
}

int queue_rollout(Store& store, int number) {
    if (number < 1) throw input_error("Rollouts are numbered from 1 on; 'optrel-cli store list rollouts' shows them.");
    const RolloutRecord record = rollout_of(store, number);
    if (record.status != RolloutStatus::writing)
        throw input_error(
            fmt::format("Rollout {} is {}, so it has nothing left to write.", number, to_string(record.status)));
    return add(store, "rollout", fmt::format("Rollout {}", number), {json_text({{"number", number}})});
}

int queue_check(Store& store) {
    constexpr int size = 20000;
    const std::vector<StoredFrames::Span> spans = store.frames().spans(size);
    std::vector<std::string> portions;
    std::size_t frames = 0;
    for (const StoredFrames::Span& s : spans) {
        portions.push_back(json_text({{"from", s.first}, {"to", s.last}}));
        frames += static_cast<std::size_t>(s.frames);
    }
    if (!portions.empty()) portions.push_back(json_text({{"gone", true}}));
    return add(store, "check", counted_frames(frames), portions);
}

int queue_export(Store& store, const std::vector<fs::path>& frames, const Delivery& delivery, const fs::path& folder) {
    check(delivery);
    const std::string to = store.kept(plain_path(folder));
    if (is_server_address(store.source().address()) && to.front() == '/')
        throw input_error(fmt::format(
            "{} lies in no root, so each station would write into a folder of its own; name a folder within "
            "a root ('optrel-cli store root').",
            printable(folder.string())));
    const json as = parse_json(delivery_to_json(delivery), "the delivery");
    std::vector<std::string> portions;
    std::error_code none;
    for (const fs::path& frame : frames) {
        if (!fs::exists(frame, none) && !store.frames().find(plain_path(frame)))
            throw input_error(fmt::format("There is no {}, and the store knows no such frame; check the path.",
                                          printable(frame.string())));
        portions.push_back(json_text({{"frame", store.kept(plain_path(frame))},
                                      {"folder", to},
                                      {"position", portions.size() + 1},
                                      {"delivery", as}}));
    }
    return add(
        store, "export",
        fmt::format("{} by {} into {}", counted_frames(frames.size()), delivery.name, printable(folder.string())),
        portions);
}

}  // namespace optrel
