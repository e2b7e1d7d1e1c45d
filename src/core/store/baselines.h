// SPDX-License-Identifier: GPL-3.0-or-later
// The draft and the published revisions of a store's baseline.
#pragma once

#include <functional>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "baselines/difference.h"
#include "baselines/tier.h"

namespace optrel {

class Engine;

class StoredBaselines {
public:
    explicit StoredBaselines(Engine& engine) : engine_(engine) {}

    /// The draft, with what the register adds to the start "as recorded" now.
    Revision draft();
    // A write of the draft names what it replaces; there is no other way to write one.

    /// Reads the draft, lets `edit` change it, and writes it, as one transaction: for commands that say what is to
    /// change whatever the draft is. What `edit` throws leaves the draft as it was. Returns the draft as it is then.
    Revision change_draft(const std::function<void(Revision&)>& edit);
    /// Replaces `base`, which draft() gave and a person saw, by `mine`. When another station edited the draft since,
    /// both edits are put together; what had to give way is told.
    MergedDrafts edit_draft(const Revision& base, const Revision& mine);

    /// Published revisions, newest first.
    std::vector<Revision> revisions();
    std::optional<Revision> revision(int number);
    /// The newest revision; number 0 and no tiers when none is published.
    Revision current();
    /// Whether a revision fixes the versions of lens profiles that are current when it is published.
    enum class ProfileVersions { follow, fix };
    /// Makes the draft an immutable revision. Throws Error(input) with the first conflict when there is one, or when
    /// the draft is not `expected` any more, or says nothing that the newest revision does not say.
    Revision publish(const std::string& author, const std::string& note, const Revision* expected = nullptr,
                     ProfileVersions versions = ProfileVersions::follow);

    /// Publishes something else than the draft, which stays: what somebody proposed, as of that one. Throws as
    /// publish() does.
    Revision publish_as(const Revision& wanted, const std::string& author, const std::string& note);

    /// What becomes of a draft that has changes of its own when an earlier revision is published again. keep: it stays,
    /// so publishing it later brings back what differs from the new revision. follow: its changes are dropped.
    enum class DraftThen { keep, follow };
    struct Returned {
        Revision revision;
        int draft_changes = 0;  ///< what publishing the draft would change in the new revision
    };
    /// Publishes what an earlier revision said as a new revision; throws Error(input) when that is what the current one
    /// says already. A draft without changes of its own follows in any
    /// case.
    Returned return_to(int number, const std::string& author, const std::string& note,
                       DraftThen then = DraftThen::keep);

private:
    /// The rows of the draft as they were read last.
    struct Rows {
        int edits = -1, taken_back = 0;
        std::map<std::string, Tier> tiers;
        std::map<std::string, PinSet> sets;
    };
    void read_rows(int edits);

    Rows rows_;
    std::map<std::string, Pins> recorded_adds();
    void write_draft(const Revision& before, const Revision& after);
    int draft_edits();
    void insert(Revision& revision, const std::string& author, const std::string& note);

    Engine& engine_;
};

}  // namespace optrel
