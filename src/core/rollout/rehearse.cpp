// SPDX-License-Identifier: GPL-3.0-or-later
#include "rollout/rehearse.h"

#include <fmt/format.h>

#include <algorithm>

#include "base/error.h"
#include "base/parallel.h"

namespace optrel {

std::string to_string(Outcome outcome) {
    static const char* names[] = {"changes",    "same",         "kept as hand-set", "exempt",
                                  "other kind", "body unknown", "unreadable"};
    return names[static_cast<int>(outcome)];
}

std::map<Outcome, int> Rehearsal::by_outcome() const {
    std::map<Outcome, int> out;
    for (const RehearsedFrame& f : frames) ++out[f.outcome];
    return out;
}

std::map<std::string, std::pair<int, int>> Rehearsal::by_body() const {
    std::map<std::string, std::pair<int, int>> out;
    for (const RehearsedFrame& f : frames) {
        auto& [writes, all] = out[f.body_label];
        writes += f.writes;
        ++all;
    }
    return out;
}

std::map<Field, std::vector<std::pair<std::string, int>>> Rehearsal::by_field() const {
    std::map<Field, std::map<std::string, int>> counts;
    for (const RehearsedFrame& f : frames)
        if (f.writes)
            for (const FieldChange& c : f.changes) ++counts[c.field][c.before.text() + " → " + c.after.text()];
    std::map<Field, std::vector<std::pair<std::string, int>>> out;
    for (const auto& [field, changes] : counts) {
        out[field].assign(changes.begin(), changes.end());
        std::stable_sort(out[field].begin(), out[field].end(),
                         [](const auto& a, const auto& b) { return a.second > b.second; });
    }
    return out;
}

int Rehearsal::writes() const {
    return static_cast<int>(
        std::count_if(frames.begin(), frames.end(), [](const RehearsedFrame& f) { return f.writes; }));
}

int Rehearsal::only_number() const {
    return static_cast<int>(std::count_if(frames.begin(), frames.end(),
                                          [](const RehearsedFrame& f) { return f.writes && f.changes.empty(); }));
}

std::string Rehearsal::warning() const {
    const RehearsedFrame* first = nullptr;
    int twice = 0;
    for (const RehearsedFrame& f : frames)
        if (f.corrects_twice && ++twice == 1) first = &f;
    if (!first) return {};
    return fmt::format(
        "{} of these frames carry a lens correction of their own ({} is the first): a program that applies both "
        "corrects "
        "twice; pin Lens profile to none where the file's own is to be kept.",
        twice, first->path.filename().string());
}

std::vector<FieldChange> changes_between(const Layer& before, const Layer& after) {
    std::vector<FieldChange> out;
    for (int i = 0; i < field_count; ++i) {
        const Field field = static_cast<Field>(i);
        const auto was = before.find(field), is = after.find(field);
        const bool equal =
            (was == before.end()) == (is == after.end()) && (was == before.end() || was->second == is->second);
        if (!equal)
            out.push_back({field, was == before.end() ? std::string("inherits") : to_display(field, was->second),
                           is == after.end() ? std::string("inherits") : to_display(field, is->second)});
    }
    return out;
}

namespace {

/// Common data for all frames of a rehearsal.
struct Rehearsing {
    int revision;
    const Resolver& resolver;
    bool renew_hand_set;
    const ProfileNote& note;
    TextPool& pool;
};

/// Profile version for the sheet, considering hand-set fields; empty when versions are not noted.
std::string noted_profile(const ProfileNote& note, int number, const Sheet& next, const ResolvedFrame& resolved) {
    if (!note) return next.profile;
    const auto says = [](const Layer& layer) {
        return layer.count(Field::lens_profile) > 0 || layer.count(Field::least_match) > 0;
    };
    return note(number, says(next.set) || says(next.hand) ? effective(next) : resolved);
}

/// Values of a start other than neutral are written as well, so that the sidecar is self-contained.
Layer written_layer(const ResolvedFrame& resolved) {
    Layer out;
    for (int f = 0; f < field_count; ++f)
        if (resolved.fields[f].tier || resolved.fields[f].value != neutral_start().fields[f].value)
            out[static_cast<Field>(f)] = resolved.fields[f].value;
    return out;
}

RehearsedFrame rehearse_one(const ScopedFrame& frame, int number, const Rehearsing& with) {
    const auto& [revision, resolver, renew_hand_set, note, pool] = with;
    RehearsedFrame out;
    out.path = frame.path;
    out.body_label = pool.of(frame.body_label);
    Sheet sheet;
    try {
        if (!std::filesystem::exists(frame.path))
            throw input_error(
                fmt::format("The frame {} is gone; find it or take it out of the list.", frame.path.string()));
        if (auto bytes = read_sidecar(frame.path)) out.before = pool.of(std::move(*bytes));
        if (out.before) sheet = sheet_from_xmp(*out.before, sidecar_path(frame.path).string());
    } catch (const std::exception& error) {
        out.outcome = Outcome::unreadable;
        out.reason = error.what();
        return out;
    }
    if (sheet.exempt) {
        out.outcome = Outcome::exempt;
        return out;
    }
    ResolvedFrame resolved;
    resolver.resolve(frame.facts, resolved);
    const Layer layer = written_layer(resolved);
    if (!frame.facts.raw && layer.empty() && sheet.baseline.empty()) {
        out.outcome = Outcome::other_kind;
        return out;
    }
    out.changes = changes_between(sheet.baseline, layer);
    for (FieldChange& c : out.changes) {
        c.before = pool.of(c.before);
        c.after = pool.of(c.after);
    }
    const bool hand_set = !sheet.follows_baseline();  // exempt frames were handled above
    Sheet next = sheet;
    next.baseline = layer;
    next.revision = revision;
    next.profile = noted_profile(note, number, next, resolved);
    if (!sheet.profile.empty() && next.profile != sheet.profile)
        out.changes.push_back({Field::lens_profile, pool.of(sheet.profile), pool.of(next.profile)});
    // A sidecar without a noted version, from an older Optrel, counts as unchanged.
    if (sheet.profile.empty() && out.changes.empty() && sheet.revision == revision) next.profile.clear();
    out.after = pool.of(sheet_to_xmp(next));
    const bool differs = !out.before || *out.before != out.after;
    if (hand_set) {
        out.outcome = Outcome::kept_hand_set;
        out.writes = renew_hand_set && differs;
    } else if (out.changes.empty()) {
        out.outcome = Outcome::same;
        out.writes = differs;  // gets the new revision number, so that it does not count as behind
    } else {
        out.writes = true;
        out.outcome = frame.facts.raw && frame.facts.body_knowledge == BodyKnowledge::unknown ? Outcome::body_unknown
                                                                                              : Outcome::changes;
    }
    out.corrects_twice = out.writes && !frame.carries.empty() && resolved[Field::lens_profile].value.text != "none";
    return out;
}

}  // namespace

Rehearsal rehearse(int count, const std::function<ScopedFrame(int)>& frame, int revision, const Resolver& resolver,
                   bool renew_hand_set, Progress& progress, const ProfileNote& note) {
    Rehearsal out;
    out.revision = revision;
    out.renew_hand_set = renew_hand_set;
    out.frames.resize(static_cast<std::size_t>(count));
    TextPool pool;
    const Rehearsing with{revision, resolver, renew_hand_set, note, pool};
    progress.start(count, "Rehearsing");
    parallel_for(
        count,
        [&](int i) {
            if (progress.cancelled()) return;
            out.frames[i] = rehearse_one(frame(i), i, with);
            progress.step();
        },
        8);
    progress.check();
    return out;
}

Rehearsal rehearse(const std::vector<ScopedFrame>& frames, int revision, const Resolver& resolver, bool renew_hand_set,
                   Progress& progress) {
    return rehearse(
        static_cast<int>(frames.size()), [&](int i) { return frames[static_cast<std::size_t>(i)]; }, revision, resolver,
        renew_hand_set, progress);
}

}  // namespace optrel
