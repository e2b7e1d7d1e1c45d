// SPDX-License-Identifier: GPL-3.0-or-later
// The register of a store: models, bodies, lenses, claims, and their history.
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

/// One edit of one entry. The entry before the edit is given so that a concurrent edit by another station is detected.
/// Nothing in `before` means a new entry; nothing in `after` means that the entry is removed.
template <class T>
struct EntryEdit {
    std::optional<T> before, after;
    bool operator==(const EntryEdit&) const = default;
};

/// Several edits of the register, applied together.
struct FleetEdit {
    std::string what;  ///< for the history, for example "claim a number"
    std::vector<EntryEdit<ModelEntry>> models;
    std::vector<EntryEdit<Body>> bodies;
    std::vector<EntryEdit<LensEntry>> lenses;
    std::vector<EntryEdit<Claim>> claims;
    bool empty() const { return models.empty() && bodies.empty() && lenses.empty() && claims.empty(); }
    /// The edit that undoes this one.
    FleetEdit reversed() const;
};

class StoredRegister {
public:
    StoredRegister(Engine& engine, StoredBaselines& baselines) : engine_(engine), baselines_(baselines) {}

    std::vector<ModelEntry> models() const;
    std::vector<Body> bodies() const;
    std::vector<LensEntry> lenses() const;
    std::vector<Claim> claims() const;
    Register entries() const { return {models(), bodies(), lenses()}; }
    std::shared_ptr<const Fleet> fleet() const {
        return std::make_shared<const Fleet>(entries(), claims(), numbering_models());
    }
    /// Camera names whose files report serial numbers.
    std::set<std::string> numbering_models() const;

    /// Applies the edit in one transaction. Throws Error(input), and changes nothing, when an entry differs from
    /// `before` or is invalid. `with_draft` edits the draft in the same transaction (see
    /// StoredBaselines::change_draft()).
    void edit(const FleetEdit& edit, const std::string& author, const std::function<void(Revision&)>& with_draft = {});
    /// Converts an import into one edit.
    FleetEdit edit_for(const RegisterImport& import) const;
    /// History entries, newest first. An empty subject means all entries. Kinds: model, body, lens, claim.
    std::vector<HistoryEntry> history(const std::string& kind = "", const std::string& subject = "",
                                      int most = 500) const;

private:
    Engine& engine_;
    StoredBaselines& baselines_;
};

}  // namespace optrel
