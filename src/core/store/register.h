// SPDX-License-Identifier: GPL-3.0-or-later
// The register of a store, with its claims and its history.
#pragma once

#include <functional>
#include <memory>
#include <optional>
#include <string>
#include <vector>

#include "fleet/fleet.h"
#include "fleet/register_files.h"
#include "store/history.h"

namespace optrel {

class Engine;

class StoredBaselines;
struct Revision;

/// One edit of one entry. What it was before is given so that an edit made at another station meanwhile is noticed;
/// nothing means that it is new, or, in `after`, that it goes.
template <class T>
struct EntryEdit {
    std::optional<T> before, after;
    bool operator==(const EntryEdit&) const = default;
};

/// Several edits of the register, as one.
struct FleetEdit {
    std::string what;  ///< for the history, as in "claim a number"
    std::vector<EntryEdit<ModelEntry>> models;
    std::vector<EntryEdit<Body>> bodies;
    std::vector<EntryEdit<LensEntry>> lenses;
    std::vector<EntryEdit<Claim>> claims;
    bool empty() const { return models.empty() && bodies.empty() && lenses.empty() && claims.empty(); }
    /// The edit that takes this one back.
    FleetEdit reversed() const;
};

class StoredRegister {
public:
    StoredRegister(Engine& engine, StoredBaselines& baselines) : engine_(engine), baselines_(baselines) {}

    std::vector<ModelEntry> models();
    std::vector<Body> bodies();
    std::vector<LensEntry> lenses();
    std::vector<Claim> claims();
    Register entries() { return {models(), bodies(), lenses()}; }
    std::shared_ptr<const Fleet> fleet() {
        return std::make_shared<const Fleet>(entries(), claims(), numbering_models());
    }
    /// The camera names whose files report numbers.
    std::set<std::string> numbering_models();

    /// Throws Error(input), changing nothing, when an entry is not as it was before, or cannot stand in the register.
    /// `with_draft` edits the draft in the same transaction, as StoredBaselines::change_draft() does.
    void edit(const FleetEdit& edit, const std::string& author, const std::function<void(Revision&)>& with_draft = {});
    /// An import as one edit.
    FleetEdit edit_for(const RegisterImport& import);
    /// Newest first; of one entry, or of all with an empty subject. Kinds are model, body, lens and claim.
    std::vector<HistoryEntry> history(const std::string& kind = "", const std::string& subject = "", int most = 500);

private:
    Engine& engine_;
    StoredBaselines& baselines_;
};

}  // namespace optrel
