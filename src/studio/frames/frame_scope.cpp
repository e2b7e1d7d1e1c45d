// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/frames/frame_scope.h"

#include <fmt/format.h>

#include <algorithm>
#include <nlohmann/json.hpp>
#include <set>

#include "base/error.h"
#include "base/json_text.h"
#include "base/parallel.h"
#include "base/path_text.h"
#include "base/paths.h"
#include "base/spans.h"
#include "base/words.h"
#include "optics/lens_text.h"
#include "studio/frames/knowledge.h"
#include "studio/frames/scope.h"

namespace optrel {
namespace fs = std::filesystem;
using nlohmann::json;

namespace {

/// Names of things, and which of the wanted names were found.
class Wanted {
public:
    Wanted(const std::vector<std::string>& names, std::string kind) : names_(names), kind_(std::move(kind)) {
        for (const std::string& n : names) lowered_.push_back(lowered(trimmed(n)));
        used_.resize(names.size());
    }
    bool any() const { return !names_.empty(); }
    /// Whether one of these names is wanted.
    bool holds(const std::vector<std::string>& of_thing) {
        bool found = false;
        for (const std::string& name : of_thing) {
            if (name.empty()) continue;
            known_.insert(name);
            const std::string low = lowered(name);
            for (std::size_t i = 0; i < lowered_.size(); ++i)
                if (lowered_[i] == low) found = used_[i] = true;
        }
        return found;
    }
    void require_all_found() const {
        const std::vector<std::string> known(known_.begin(), known_.end());
        for (std::size_t i = 0; i < names_.size(); ++i)
            if (!used_[i])
                throw input_error(fmt::format("No frame is of {} '{}'{}.", kind_, printable(names_[i]),
                                              nearest_clause(names_[i], known)));
    }

private:
    const std::vector<std::string>& names_;
    std::string kind_;
    std::vector<std::string> lowered_;
    std::vector<bool> used_;
    std::set<std::string> known_;
};

std::vector<FrameRecord> in_folders(const FrameScope& scope, const std::vector<FrameRecord>& all) {
    if (scope.beneath) return frames_in(all, scope.folders);
    std::set<fs::path> places;
    for (const fs::path& f : scope.folders) places.insert(plain_path(f));
    std::set<fs::path> used;
    std::vector<FrameRecord> out;
    for (const FrameRecord& f : all)
        if (places.count(f.path.parent_path()) > 0) {
            used.insert(f.path.parent_path());
            out.push_back(f);
        }
    for (const fs::path& place : places)
        if (used.count(place) == 0)
            throw input_error(fmt::format(
                "No frame that the store knows lies in {} itself; check the path, or take the folders beneath it too.",
                printable(place.string())));
    return out;
}

void keep_jobs(const FrameScope& scope, std::vector<FrameRecord>& frames) {
    Wanted wanted(scope.jobs, "the job");
    if (!wanted.any()) return;
    std::erase_if(frames, [&](const FrameRecord& f) {
        std::vector<std::string> on_the_way;
        for (const fs::path& part : f.path.parent_path()) on_the_way.push_back(part.string());
        return !wanted.holds(on_the_way);
    });
    wanted.require_all_found();
}

void keep_chosen(const FrameScope& scope, std::vector<FrameRecord>& frames) {
    if (scope.frames.empty()) return;
    std::set<fs::path> wanted, found;
    for (const fs::path& f : scope.frames) wanted.insert(plain_path(f));
    std::erase_if(frames, [&](const FrameRecord& f) {
        if (wanted.count(f.path) == 0) return true;
        found.insert(f.path);
        return false;
    });
    for (const fs::path& f : wanted)
        if (found.count(f) == 0)
            throw input_error(
                fmt::format("The store knows no frame {} within the scope; check the path, or index its folder first.",
                            printable(f.string())));
}

std::vector<std::string> names_of_body(const FrameRecord& frame, const FrameFacts& facts, const Fleet& fleet) {
    std::vector<std::string> out{camera_name(*frame.metadata)};
    if (const Body* b = fleet.body(facts.body)) out.insert(out.end(), {b->label(), b->id, b->asset_tag, b->serial});
    return out;
}

std::vector<std::string> names_of_lens(const FrameRecord& frame, const FrameFacts& facts, const Fleet& fleet) {
    std::vector<std::string> out{frame.metadata->lens, facts.lens};
    if (const LensEntry* l = fleet.lens(facts.lens_copy))
        out.insert(out.end(), {l->name, l->id, l->asset_tag, l->lens, l->serial});
    return out;
}

void keep_gear(const FrameScope& scope, std::vector<FrameRecord>& frames, const Fleet& fleet) {
    Wanted bodies(scope.bodies, "the body"), lenses(scope.lenses, "the lens");
    if (!bodies.any() && !lenses.any()) return;
    const FactsOfFrames facts = facts_of(frames, fleet);
    std::vector<FrameRecord> out;
    for (std::size_t i = 0; i < frames.size(); ++i) {
        // Evaluates both sides, so that every existing name counts as found.
        const bool body = !bodies.any() || bodies.holds(names_of_body(frames[i], facts[i], fleet));
        const bool lens = !lenses.any() || lenses.holds(names_of_lens(frames[i], facts[i], fleet));
        if (body && lens) out.push_back(std::move(frames[i]));
    }
    bodies.require_all_found();
    lenses.require_all_found();
    frames = std::move(out);
}

void keep_figures(const FrameScope& scope, std::vector<FrameRecord>& frames) {
    // The document may come from another program.
    const std::string from = scope.day_from.empty() ? "" : moment_from(scope.day_from),
                      to = scope.day_to.empty() ? "" : moment_from(scope.day_to);
    if (!from.empty() && !to.empty() && to < from.substr(0, to.size()))
        throw input_error(
            fmt::format("The days end ({}) before they begin ({}); exchange them.", scope.day_to, scope.day_from));
    if (scope.iso_from && scope.iso_to && *scope.iso_to < *scope.iso_from)
        throw input_error(fmt::format("The ISO values end ({}) before they begin ({}); exchange them.", *scope.iso_to,
                                      *scope.iso_from));
    const bool by_day = !scope.day_from.empty() || !scope.day_to.empty();
    std::erase_if(frames, [&](const FrameRecord& f) {
        if (scope.iso_from && f.metadata.iso < *scope.iso_from) return true;
        if (scope.iso_to && (f.metadata.iso > *scope.iso_to || f.metadata.iso == 0)) return true;
        return by_day && !within_moments(f.metadata.time(), from, to);
    });
}

void keep_states(const FrameScope& scope, std::vector<FrameRecord>& frames, const Progress& progress) {
    if (scope.states.empty()) return;
    std::vector<char> kept(frames.size());
    parallel_for(static_cast<int>(frames.size()), [&](int i) {
        if (progress.cancelled()) return;
        const auto at = static_cast<std::size_t>(i);
        try {
            const FrameState state = read_sheet(frames[at].path).state();
            kept[at] = std::find(scope.states.begin(), scope.states.end(), state) != scope.states.end() ? 1 : 0;
        } catch (const std::exception&) {
            kept[at] = 1;
        }
    });
    progress.check();
    std::size_t i = 0;
    std::erase_if(frames, [&](const FrameRecord&) { return kept[i++] == 0; });
}

}  // namespace

std::vector<FrameRecord> frames_of(const FrameScope& scope, const std::vector<FrameRecord>& all, const Fleet& fleet,
                                   const Progress& progress) {
    std::vector<FrameRecord> out = scope.folders.empty() ? all : in_folders(scope, all);
    keep_chosen(scope, out);
    keep_jobs(scope, out);
    keep_gear(scope, out, fleet);
    keep_figures(scope, out);
    keep_states(scope, out, progress);
    if (out.empty() && !scope.all())
        throw input_error(fmt::format("No frame is within this scope ({}); widen it.", in_words(scope)));
    return out;
}

std::string in_words(const FrameScope& s) {
    std::vector<std::string> parts;
    const auto say = [&](const char* kind, const std::vector<std::string>& names) {
        if (!names.empty()) parts.push_back(fmt::format("{} {}", kind, one_of(names)));
    };
    std::vector<std::string> folders, states;
    for (const fs::path& f : s.folders) folders.push_back(printable(f.string()));
    for (const FrameState state : s.states) states.push_back(to_string(state));
    say(s.beneath ? "folder" : "folder alone", folders);
    say("job", s.jobs);
    say("body", s.bodies);
    say("lens", s.lenses);
    const auto range = [&](const char* kind, const std::string& from, const std::string& to) {
        if (from.empty() && to.empty()) return;
        if (from.empty() || to.empty())
            parts.push_back(fmt::format("{} {} {}", kind, from.empty() ? "up to" : "from", from + to));
        else
            parts.push_back(from == to ? fmt::format("{} {}", kind, from) : fmt::format("{} {} to {}", kind, from, to));
    };
    range("ISO", s.iso_from ? std::to_string(*s.iso_from) : "", s.iso_to ? std::to_string(*s.iso_to) : "");
    range("taken", s.day_from, s.day_to);
    say("state", states);
    if (!s.frames.empty())
        parts.push_back(s.frames.size() == 1 ? printable(s.frames.front().filename().string())
                                             : fmt::format("{} chosen frames", s.frames.size()));
    return fmt::format("{}", fmt::join(parts, "; "));
}

FrameState frame_state_from(const std::string& word) {
    std::vector<std::string> words;
    for (const FrameState s :
         {FrameState::untouched, FrameState::on_baseline, FrameState::hand_set, FrameState::exempt}) {
        if (lowered(trimmed(word)) == to_string(s)) return s;
        words.push_back(to_string(s));
    }
    throw input_error(fmt::format("'{}' is no state of a frame; take {}.", printable(word), one_of(words)));
}

std::string scope_to_json(const FrameScope& s) {
    json j = json::object();
    const auto paths = [](const std::vector<fs::path>& list) {
        json out = json::array();
        for (const fs::path& p : list) out.push_back(path_to_text(p.native()));
        return out;
    };
    if (!s.folders.empty()) j["folders"] = paths(s.folders);
    if (!s.beneath) j["beneath"] = false;
    if (!s.jobs.empty()) j["jobs"] = s.jobs;
    if (!s.bodies.empty()) j["bodies"] = s.bodies;
    if (!s.lenses.empty()) j["lenses"] = s.lenses;
    if (s.iso_from) j["iso_from"] = *s.iso_from;
    if (s.iso_to) j["iso_to"] = *s.iso_to;
    if (!s.day_from.empty()) j["day_from"] = s.day_from;
    if (!s.day_to.empty()) j["day_to"] = s.day_to;
    for (const FrameState state : s.states) j["states"].push_back(to_string(state));
    if (!s.frames.empty()) j["frames"] = paths(s.frames);
    return json_text(j, 1);
}

FrameScope scope_from_json(const std::string& document, const std::string& where) {
    const json j = parse_json(document, where);
    FrameScope out;
    try {
        if (!j.is_object()) throw input_error("it is no object");
        for (const auto& [key, value] : j.items()) {
            const auto texts = [&value = value] { return value.get<std::vector<std::string>>(); };
            if (key == "folders")
                for (const std::string& f : texts()) out.folders.emplace_back(path_from_text(f));
            else if (key == "frames")
                for (const std::string& f : texts()) out.frames.emplace_back(path_from_text(f));
            else if (key == "states")
                for (const std::string& s : texts()) out.states.push_back(frame_state_from(s));
            else if (key == "beneath")
                out.beneath = value.get<bool>();
            else if (key == "jobs")
                out.jobs = texts();
            else if (key == "bodies")
                out.bodies = texts();
            else if (key == "lenses")
                out.lenses = texts();
            else if (key == "iso_from")
                out.iso_from = value.get<int>();
            else if (key == "iso_to")
                out.iso_to = value.get<int>();
            else if (key == "day_from")
                out.day_from = value.get<std::string>();
            else if (key == "day_to")
                out.day_to = value.get<std::string>();
            else
                throw input_error(fmt::format("it says '{}', which this version does not know", printable(key)));
        }
    } catch (const std::exception& error) {
        throw input_error(fmt::format("{} is no selection of frames ({}).", where, without_stop(error.what())));
    }
    return out;
}

}  // namespace optrel
