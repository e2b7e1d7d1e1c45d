// SPDX-License-Identifier: GPL-3.0-or-later
// The draft and the published revisions of a baseline.
#pragma once

#include <functional>
#include <map>
#include <optional>
#include <string>
#include <vector>

#include "baselines/difference.h"
#include "baselines/tier.h"
#include "store/damaged_record.h"

namespace optrel {

class Engine;

class StoredBaselines {
public:
    explicit StoredBaselines(Engine& engine) : engine_(engine) {}

    /// The draft. Settings that the register adds to the start "as recorded" are included.
    Revision draft() const;
    // A write must name the draft that it replaces, so that concurrent edits are detected.

    /// Reads the draft, applies `edit` and saves the result in one transaction. When `edit` throws, the draft stays as
    /// it was. Returns the saved draft. For commands whose edit does not depend on a draft that a person saw.
    Revision change_draft(const std::function<void(Revision&)>& edit);
    /// Saves `mine`, which a person made from `base`. When another station edited the draft meanwhile, both edits are
    /// merged, and the result lists what had to give way.
    MergedDrafts edit_draft(const Revision& base, const Revision& mine);

    /// Published revisions, newest first. Leaves out what damaged() names.
    std::vector<Revision> revisions() const;
    /// Throws Error(input) when it cannot be read.
    std::optional<Revision> revision(int number) const;
    /// Revisions whose documents cannot be read, or name another number than their row.
    std::vector<DamagedRecord> damaged() const;
    /// The newest revision that can be read; number 0 without tiers when there is none.
    Revision current() const;
    /// Whether a revision pins the versions of lens profiles that are current when it is published.
    enum class ProfileVersions { follow, fix };
    /// Publishes the draft as a new, immutable revision. Throws Error(input) when the draft has a conflict, differs
    /// from `expected`, or equals the newest revision.
    /// On a server the author is the user name of the connection.
    Revision publish(const std::string& author, const std::string& note, const Revision* expected = nullptr,
                     ProfileVersions versions = ProfileVersions::follow);

    /// Publishes a proposed revision in the name of its author; the draft stays as it is. Throws as publish() does.
    Revision publish_as(const Revision& wanted, const std::string& author, const std::string& note);

    /// What happens to changes in the draft when an earlier revision is published again. keep: they stay, so publishing
    /// the draft later brings them back. follow: they are dropped.
    enum class DraftThen { keep, follow };
    struct Returned {
        Revision revision;
        int draft_changes = 0;  ///< changes that publishing the draft would then make
    };
    /// Publishes an earlier revision again under a new number. Throws Error(input) when it equals the current revision.
    /// A draft without changes follows in any case.
    Returned return_to(int number, const std::string& author, const std::string& note,
                       DraftThen then = DraftThen::keep);

private:
    /// The draft as read last, row by row.
    struct Rows {
        int edits = -1, taken_back = 0;
        std::map<std::string, Tier> tiers;
        std::map<std::string, PinSet> sets;
    };
    void read_rows(int edits) const;

    mutable Rows rows_;  ///< of the draft as last read
    std::map<std::string, Pins> recorded_adds() const;
    std::vector<Revision> read_published(std::vector<DamagedRecord>* damaged = nullptr) const;
    void write_draft(const Revision& before, const Revision& after);
    int draft_edits() const;
    /// Name that a published revision carries: the user name at the server, otherwise `given`. The owner of
    /// the store on a server keeps `given`.
    std::string own_name(const std::string& given) const;
    void insert(Revision& revision, const std::string& author, const std::string& note);

    Engine& engine_;
};

}  // namespace optrel
