// SPDX-License-Identifier: GPL-3.0-or-later
// What needs a person: one list for the window and the command line, the most serious first.
#pragma once

#include <memory>
#include <set>
#include <string>
#include <vector>

#include "base/progress.h"
#include "baselines/lint.h"
#include "store/store.h"
#include "studio/attention/due_again.h"
#include "studio/fleet/fleet_knowledge.h"
#include "studio/profiles/behind_versions.h"

namespace optrel {

enum class AttentionKind {
    no_frames,           ///< the store knows no frames yet
    missing_root,        ///< a root has no folder at this station
    unclaimed_body,      ///< files report a body that nobody claimed
    identity_choice,     ///< files report something that fits several entries of the register
    fingerprint,         ///< fingerprints may tell which body took frames
    unclaimed_lens,      ///< files report a lens that nobody claimed
    no_profile,          ///< no profile fits a lens in use
    measurement_due,     ///< a measurement is older than its kind allows
    profile_differs,     ///< the newest version of a profile differs from the one before
    draft,               ///< the draft of the baseline is not published
    conflict,            ///< two tiers contradict each other
    lint,                ///< lint finds something in the published revision
    unreadable_sidecar,  ///< sidecars cannot be read
    behind_profile,      ///< frames were rolled out with an older version of their lens profile
    behind_revision,     ///< frames have an older revision of the baseline, or none
    damaged_record,      ///< a published revision or measurement cannot be read
    damaged_rollout,     ///< the record of a rollout cannot be read
    stopped_rollout,     ///< a rollout stopped half-way, and no station is at work on it
    proposal_to_judge,   ///< a proposal that who asks may approve
    proposal_waits,      ///< a proposal that waits for somebody else
    proposal_sent_back,  ///< a proposal of who asks that was sent back
    remark,              ///< a remark that is not settled
    bundle,              ///< a bundle lies in a folder of frames
};
/// "unclaimed-body".
std::string to_string(AttentionKind kind);
/// Throws Error(input) with the nearest names.
AttentionKind attention_kind_named(const std::string& name);
std::vector<std::string> attention_kind_names();

struct AttentionItem {
    AttentionKind kind = AttentionKind::draft;
    bool serious = false;
    std::string what, why;
    std::string settle_by;  ///< as in "settle it by ..."
    int frames = 0;         ///< affected frames; 0: none, or they are not counted
    std::string subject;    ///< root, lens text, path of a bundle, or kind of a measurement or a damaged record
    int number = 0;         ///< of a rollout, a proposal or a remark
    bool operator==(const AttentionItem&) const = default;
};

/// What takes long to find out. Equal to an empty one where nothing was looked at yet.
struct AttentionFindings {
    std::vector<LintFinding> published_lint;
    std::vector<ProfileConcern> profile_concerns;
    std::vector<BehindVersion> behind_versions;
    std::vector<DamagedRecord> damaged_records;
    std::vector<DueAgain> due;
    /// remembered_unmatched(): frames that were compared with all fingerprints and show none.
    int unmatched_frames = 0;
};
/// What reading all documents of a store finds.
struct StoreRecords {
    std::vector<DamagedRecord> damaged;
    std::vector<DueAgain> due;
};
StoreRecords store_records(const Store& store);

/// `versions`: all versions of all profiles; `noted`: frames whose sheets name another version than a current one;
/// `records`: from store_records().
AttentionFindings look_closer(const Revision& published, const FleetKnowledge& knowledge, const Fleet& fleet,
                              const std::shared_ptr<const std::vector<Profile>>& versions,
                              const std::vector<NotedFrame>& noted, StoreRecords records);

/// Everything that attention() looks at, as it is at one moment. The pointers must not be null.
struct AttentionFacts {
    bool any_frames = false;
    const FleetKnowledge* fleet = nullptr;
    const Revision *current = nullptr, *draft = nullptr;
    const std::vector<Profile>* profiles = nullptr;  ///< for the names of profiles
    const AttentionFindings* findings = nullptr;
    std::set<std::string> fingerprinted;  ///< camera names of which a current fingerprint is there
    int pending_changes = 0;              ///< of the draft against the published revision
    int unreadable_sidecars = 0;
    int frames_behind = 0;  ///< frames that follow the baseline and have an older revision
    std::vector<RolloutRecord> rollouts;
    std::vector<ChangeProposal> proposals;  ///< newest first
    bool may_approve = false;               ///< who asks may approve what others propose
    std::vector<Remark> remarks;            ///< those that are not settled
    std::vector<FoundBundle> bundles;
};

/// Serious items first, then in the order of AttentionKind.
std::vector<AttentionItem> attention(const AttentionFacts& facts);

/// The same for a store, whose frames' sidecars are read for it. May be cancelled.
std::vector<AttentionItem> attention(const Store& store, Progress& progress);

}  // namespace optrel
