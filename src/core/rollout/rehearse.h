// SPDX-License-Identifier: GPL-3.0-or-later
// Rehearsal: computes what a rollout would change, without writing.
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
    std::string body_label;  ///< for the counts by body
    std::string carries;     ///< lens corrections that the file contains already; empty: none
};

enum class Outcome { changes, same, kept_hand_set, exempt, other_kind, body_unknown, unreadable };
inline constexpr int outcome_count = 7;
std::string to_string(Outcome outcome);

struct FieldChange {
    Field field;
    SharedText before, after;  ///< values as text; "inherits" when the layer has no value
};

std::vector<FieldChange> changes_between(const Layer& before, const Layer& after);

struct RehearsedFrame {
    KeptPath path;
    SharedText body_label;
    Outcome outcome = Outcome::same;
    std::string reason;                ///< reason why it is unreadable
    std::vector<FieldChange> changes;  ///< changes of the baseline layer
    bool writes = false;
    bool corrects_twice = false;       ///< a profile would be applied on top of a correction in the file
    std::optional<SharedText> before;  ///< current contents of the sidecar
    SharedText after;                  ///< contents that the rollout would write
};

struct Rehearsal {
    int revision = 0;
    bool renew_hand_set = false;
    std::vector<RehearsedFrame> frames;

    std::map<Outcome, int> by_outcome() const;
    /// By body label: number of frames that would be written, and of all frames.
    std::map<std::string, std::pair<int, int>> by_body() const;
    /// By field: changes (old to new) with the number of frames, most frequent first.
    std::map<Field, std::vector<std::pair<std::string, int>>> by_field() const;
    int writes() const;
    /// Number of frames that would only get the new revision number.
    int only_number() const;
    /// One sentence that should be read before the rollout; empty: none.
    std::string warning() const;
};

/// All counts in one pass; with very many frames, each separate count takes noticeable time.
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

/// Version of the lens profile for frame number `i` with these fields, as noted in the sidecar: "p7@2" or "none". May
/// be called from any thread.
using ProfileNote = std::function<std::string(int, const ResolvedFrame&)>;

/// A frame whose fields do not change only gets the new revision number. A raw frame of an unknown body gets the values
/// of the studio and its model, and is counted separately. With `renew_hand_set`, the baseline below hand-set fields is
/// updated; hand-set fields never change.
Rehearsal rehearse(const std::vector<ScopedFrame>& frames, int revision, const Resolver& resolver, bool renew_hand_set,
                   Progress& progress);
/// The same for `count` frames that are requested one by one, from any thread, so that no list is needed. With `note`,
/// a frame also counts as changed when its lens profile has a newer version.
Rehearsal rehearse(int count, const std::function<ScopedFrame(int)>& frame, int revision, const Resolver& resolver,
                   bool renew_hand_set, Progress& progress, const ProfileNote& note = {});

}  // namespace optrel
