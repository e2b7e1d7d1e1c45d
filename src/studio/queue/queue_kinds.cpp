// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/queue/queue_kinds.h"

#include <fmt/format.h>

#include <algorithm>

#include "base/error.h"
#include "base/json_text.h"
#include "base/words.h"
#include "studio/queue/every_kind.h"

namespace optrel {

using nlohmann::json;

namespace {

/// Largest document of a portion, in bytes.
constexpr std::size_t largest_document = 16u << 20;

}  // namespace

std::vector<json> WorkResults::done() const {
    std::vector<json> out;
    for (const QueuedPortion& p : portions)
        if (p.state == PortionState::done)
            out.push_back(parse_json(p.result, fmt::format("The result of job {}", job.id)));
    return out;
}

const std::vector<const QueueKind*>& queue_kinds() {
    static const std::vector<const QueueKind*> all{&index_work(),   &measure_work(), &rehearse_work(),
                                                   &rollout_work(), &check_work(),   &export_work()};
    return all;
}

const QueueKind& queue_kind(const std::string& id) {
    for (const QueueKind* kind : queue_kinds())
        if (kind->id() == id) return *kind;
    throw input_error(fmt::format("This version does not know work of the kind '{}'.", printable(id)));
}

namespace {

DividedPortion divided_as_read(const Store& store, const QueuedPortion& portion) {
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

DividedPortion divided(const Store& store, const QueuedPortion& portion) {
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
    return queue_kind(portion.kind).do_portion({store, portion, what, progress});
}

}  // namespace optrel
