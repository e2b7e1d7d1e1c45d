// SPDX-License-Identifier: GPL-3.0-or-later
// Rehearsing a revision over frames.
#include <fmt/format.h>

#include "base/error.h"
#include "base/json_text.h"
#include "base/words.h"
#include "studio/queue/every_kind.h"
#include "studio/queue/portion_paths.h"
#include "studio/queue/portion_sums.h"
#include "studio/rollout/rolling.h"

namespace optrel {
namespace {

using nlohmann::json;

/// Maximum number of unreadable frames in a result.
constexpr std::size_t most_told = 20;

PortionResult do_rehearse(const Work& work) {
    auto& [store, portion, what, progress] = work;
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

void tell_rehearse(const WorkResults& results, std::vector<std::string>& lines) {
    const std::vector<json> done = results.done();
    lines.push_back(fmt::format("{} of {} would be written, {} of them with the number of the revision alone.",
                                sum(done, "writes"), counted(sum(done, "frames"), "sidecar", "sidecars"),
                                sum(done, "only_number")));
    for (const auto& [outcome, n] : counts(done, "outcomes")) lines.push_back(fmt::format("{}: {}", outcome, n));
    for (const auto& [field, n] : counts(done, "fields"))
        lines.push_back(fmt::format("{} changes in {}", field, counted(n, "frame", "frames")));
    sentences(done, "unreadable", lines);
}

}  // namespace

const QueueKind& rehearse_work() {
    static const QueueKind kind("rehearse", do_rehearse, tell_rehearse);
    return kind;
}

}  // namespace optrel
