// SPDX-License-Identifier: GPL-3.0-or-later
// How far a tier or a change reaches: bodies and frames.
//
// Frames that nothing tells apart for resolving are counted together, so that 200,000 frames become some thousand
// groups.
#pragma once

#include <cstdint>
#include <functional>
#include <memory>
#include <string>
#include <vector>

#include "baselines/resolver.h"

namespace optrel {

/// Frames that resolve alike.
struct FactsGroup {
    FrameFacts facts;
    int frames = 0;
};

/// Facts of frames in their order, equal ones kept once.
class FactsOfFrames {
public:
    FactsOfFrames() = default;
    explicit FactsOfFrames(const std::vector<FrameFacts>& frames);
    /// Of `count` frames that are asked for on all cores.
    FactsOfFrames(int count, const std::function<FrameFacts(int)>& facts);

    std::size_t size() const { return group_of_.size(); }
    const FrameFacts& operator[](std::size_t i) const { return (*groups_)[group_of_[i]].facts; }
    /// In the order of their first frames.
    const std::vector<FactsGroup>& groups() const { return *groups_; }
    std::shared_ptr<const std::vector<FactsGroup>> shared_groups() const { return groups_; }

private:
    std::shared_ptr<const std::vector<FactsGroup>> groups_ = std::make_shared<std::vector<FactsGroup>>();
    std::vector<std::uint32_t> group_of_;
};

/// Groups by the body and the model that they are of, so that a tier need not ask them all.
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

/// What the baseline parts have to know of a registered body.
struct FleetBody {
    std::string id, label;
    std::string model;         ///< camera name
    std::string condition;     ///< empty: as made
    bool names_itself = true;  ///< its files carry a serial number
};

struct Reach {
    int frames = 0;
    int bodies = 0;       ///< registered ones
    int bodies_seen = 0;  ///< those of them that have such frames
};
/// Frames and bodies to which a tier applies.
Reach reach_of(const Tier& tier, const std::vector<FactsGroup>& groups, const std::vector<FleetBody>& fleet);

/// The same for every tier of a resolver, by id.
std::unordered_map<std::string, Reach> reach_of_all(const Resolver& resolver, const std::vector<FactsGroup>& groups,
                                                    const std::vector<FleetBody>& fleet);

/// What would resolve differently with `after` in place of `before`.
struct ChangedValues {
    struct Body {
        std::string label;  ///< of the body, or the model with its body unknown
        int frames = 0;
        std::string was, is;  ///< of its largest group, for people
    };
    int frames = 0;
    std::vector<Body> bodies;  ///< most frames first
};
/// Of one field, over the frames that exist.
ChangedValues changed_values(const Resolver& before, const Resolver& after, Field field,
                             const std::vector<FactsGroup>& groups, const std::vector<FleetBody>& fleet);
/// The same where only one tier was changed, which stands in `after`: only frames that it reaches are looked at.
ChangedValues changed_values(const Resolver& before, const Resolver& after, const Tier& tier, Field field,
                             const GroupIndex& groups, const std::vector<FleetBody>& fleet);

/// The settings that a body's frames record, for what has no frame of its own: those of its nearest recorded ISO.
class RecordedHabits {
public:
    explicit RecordedHabits(const std::vector<FactsGroup>& groups);
    RecordedHabits() = default;
    struct Habit {
        Recorded recorded;
        double iso = 0;  ///< where it was seen; 0: the body has no raw frame
    };
    /// `body` empty: of the model.
    Habit at(const std::string& model, const std::string& body, double iso) const;

private:
    std::map<std::string, std::map<double, std::pair<int, Recorded>>> by_body_, by_model_;
};

}  // namespace optrel
