// SPDX-License-Identifier: GPL-3.0-or-later
// Rehearsing: what a rollout would do, without doing it.
#pragma once

#include <filesystem>
#include <functional>
#include <map>
#include <string>
#include <vector>

#include "base/kept_path.h"
#include "base/progress.h"
#include "base/shared_text.h"
#include "rollout/sheet.h"

namespace optrel {

/// A frame in the scope of a rollout.
struct ScopedFrame {
    KeptPath path;
    FrameFacts facts;
    std::string body_label;  ///< for the counts
    std::string carries;     ///< corrections of the lens that the file carries; empty: none
};

enum class Outcome { changes, same, kept_hand_set, exempt, other_kind, body_unknown, unreadable };
inline constexpr int outcome_count = 7;
std::string to_string(Outcome outcome);

struct FieldChange {
    Field field;
    SharedText before, after;  ///< texts; "inherits" where a layer says nothing
};

std::vector<FieldChange> changes_between(const Layer& before, const Layer& after);

struct RehearsedFrame {
    KeptPath path;
    SharedText body_label;
    Outcome outcome = Outcome::same;
    std::string reason;                ///< of unreadable
    std::vector<FieldChange> changes;  ///< of the baseline layer
    bool writes = false;
    bool corrects_twice = false;       ///< a profile on top of what the file carries
    std::optional<SharedText> before;  ///< bytes of the sidecar now
    SharedText after;                  ///< bytes that a rollout writes
};

struct Rehearsal {
    int revision = 0;
    bool renew_hand_set = false;
    std::vector<RehearsedFrame> frames;

    std::map<Outcome, int> by_outcome() const;
    /// Body label to frames that would be written, and all.
    std::map<std::string, std::pair<int, int>> by_body() const;
    /// Field to (old to new, frames), most frames first.
    std::map<Field, std::vector<std::pair<std::string, int>>> by_field() const;
    int writes() const;
    /// Those that would be written with a new number of the revision and nothing else.
    int only_number() const;
    /// One sentence for what somebody should look at before rolling out; empty: nothing.
    std::string warning() const;
};

/// All of these at once, for whoever shows them: over very many frames each takes its time.
struct RehearsalCounts {
    std::map<Outcome, int> by_outcome;
    std::map<std::string, std::pair<int, int>> by_body;
    std::map<Field, std::vector<std::pair<std::string, int>>> by_field;
    int writes = 0, only_number = 0;
    std::string warning;

    RehearsalCounts() = default;
    explicit RehearsalCounts(const Rehearsal& r)
        : by_outcome(r.by_outcome()),
          by_body(r.by_body()),
          by_field(r.by_field()),
          writes(r.writes()),
          only_number(r.only_number()),
          warning(r.warning()) {}
};

/// The version of the lens profile that a frame gets with these fields, as it is noted in its sidecar: "p7@2", "none".
/// Asked from any thread, for the frame of this number.
using ProfileNote = std::function<std::string(int, const ResolvedFrame&)>;

/// A frame whose fields stay the same gets only the number of the revision. A raw frame whose body is unknown gets what
/// the studio and its model say, and is counted apart so that somebody looks. With `renew_hand_set` the layer beneath
/// hand-set fields is renewed; the hand-set fields always stay.
Rehearsal rehearse(const std::vector<ScopedFrame>& frames, int revision, const Resolver& resolver, bool renew_hand_set,
                   Progress& progress);
/// The same of `count` frames that are asked for when they are looked at, from any thread: of very many no list is
/// made.
/// With `note`, a frame that was rolled out with another version of its lens profile changes, too.
Rehearsal rehearse(int count, const std::function<ScopedFrame(int)>& frame, int revision, const Resolver& resolver,
                   bool renew_hand_set, Progress& progress, const ProfileNote& note = {});

}  // namespace optrel
