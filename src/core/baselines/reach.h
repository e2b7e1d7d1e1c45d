// SPDX-License-Identifier: GPL-3.0-or-later
// Which bodies and frames a tier or a change affects.
//
// Frames with the same facts are counted as one group, so that 200,000 frames become a few thousand groups.
#pragma once

#include <cstdint>
#include <functional>
#include <memory>
#include <string>
#include <vector>

#include "baselines/resolver.h"

namespace optrel {

/// Frames with the same facts, which resolve to the same values.
struct FactsGroup {
    FrameFacts facts;
    int frames = 0;
};

/// Facts of all frames in order; equal facts are stored once.
class FactsOfFrames {
public:
    FactsOfFrames() = default;
    explicit FactsOfFrames(const std::vector<FrameFacts>& frames);
    /// For `count` frames, requested on all cores.
    FactsOfFrames(int count, const std::function<FrameFacts(int)>& facts);

    std::size_t size() const { return group_of_.size(); }
    const FrameFacts& operator[](std::size_t i) const { return (*groups_)[group_of_[i]].facts; }
    /// Ordered by their first frames.
    const std::vector<FactsGroup>& groups() const { return *groups_; }
    std::shared_ptr<const std::vector<FactsGroup>> shared_groups() const { return groups_; }

private:
    std::shared_ptr<const std::vector<FactsGroup>> groups_ = std::make_shared<std::vector<FactsGroup>>();
    std::vector<std::uint32_t> group_of_;
};

/// Index of the groups by body and model, so that a tier needs to check only some of them.
class GroupIndex {
public:
    GroupIndex() = default;
    explicit GroupIndex(std::vector<FactsGroup> groups)
        : GroupIndex(std::make_shared<const std::vector<FactsGroup>>(std::move(groups))) {}
    explicit GroupIndex(std::shared_ptr<const std::vector<FactsGroup>> groups);
    const std::vector<FactsGroup>& all() const { return *groups_; }
    /// Calls visit(group) for every group to which the tier applies.
    template <class Visit>
    void reached_by(const Tier& tier, const Visit& visit) const {
        const std::string lens = canonical_lens_of(tier);
        const auto each = [&](const auto& list, const auto& get) {
            for (const auto& entry : list)
                if (const FactsGroup& g = get(entry); tier_applies(tier, lens, g.facts)) visit(g);
        };
        if (tier.scope == Scope::studio)
            return each(*groups_, [](const FactsGroup& g) -> const FactsGroup& { return g; });
        const auto& index = tier.scope == Scope::body ? by_body_ : by_model_;
        if (const auto it = index.find(tier.target); it != index.end())
            each(it->second, [&](std::size_t i) -> const FactsGroup& { return (*groups_)[i]; });
    }

private:
    std::shared_ptr<const std::vector<FactsGroup>> groups_ = std::make_shared<std::vector<FactsGroup>>();
    std::unordered_map<std::string, std::vector<std::size_t>> by_body_, by_model_;
};

/// Facts about a registered body that baselines need.
struct FleetBody {
    std::string id, label;
    std::string model;         ///< camera name
    std::string condition;     ///< empty: as made
    bool names_itself = true;  ///< files of the body contain a serial number
};

struct Reach {
    int frames = 0;
    int bodies = 0;       ///< number of registered bodies
    int bodies_seen = 0;  ///< of these, bodies with frames in question
};
/// Frames and bodies to which a tier applies.
Reach reach_of(const Tier& tier, const std::vector<FactsGroup>& groups, const std::vector<FleetBody>& fleet);

/// The same for every tier of a resolver, by id.
std::unordered_map<std::string, Reach> reach_of_all(const Resolver& resolver, const std::vector<FactsGroup>& groups,
                                                    const std::vector<FleetBody>& fleet);

/// Values that differ when `after` replaces `before`.
struct ChangedValues {
    struct Body {
        std::string label;  ///< body, or model when the body is unknown
        int frames = 0;
        std::string was, is;  ///< ISO of the largest group, as an example
    };
    int frames = 0;
    std::vector<Body> bodies;  ///< most frames first
};
/// For one field, over all existing frames.
ChangedValues changed_values(const Resolver& before, const Resolver& after, Field field,
                             const std::vector<FactsGroup>& groups, const std::vector<FleetBody>& fleet);
/// The same when only one tier, contained in `after`, was changed: only frames that it applies to are compared.
ChangedValues changed_values(const Resolver& before, const Resolver& after, const Tier& tier, Field field,
                             const GroupIndex& groups, const std::vector<FleetBody>& fleet);

/// Recorded settings of the frames of a body, by ISO; used for bodies and ISO values without frames.
class RecordedSettings {
public:
    explicit RecordedSettings(const std::vector<FactsGroup>& groups);
    RecordedSettings() = default;
    struct RecordedEntry {
        Recorded recorded;
        double iso = 0;  ///< ISO of the record; 0: the body has no raw frame
    };
    /// With an empty `body`: for the model.
    RecordedEntry at(const std::string& model, const std::string& body, double iso) const;

private:
    std::map<std::string, std::map<double, std::pair<int, Recorded>>> by_body_, by_model_;
};

}  // namespace optrel
