// SPDX-License-Identifier: GPL-3.0-or-later
#include "baselines/reach.h"

#include <algorithm>
#include <cmath>
#include <functional>
#include <set>
#include <unordered_set>

#include "base/parallel.h"

namespace optrel {
namespace {

struct FactsHash {
    std::size_t operator()(const FrameFacts& f) const {
        const std::hash<std::string> text;
        std::size_t h = text(f.body);
        for (const std::size_t part :
             {text(f.model), text(f.lens), text(f.lens_copy), std::hash<double>()(f.iso),
              static_cast<std::size_t>(f.raw) | static_cast<std::size_t>(f.body_knowledge) << 1 |
                  static_cast<std::size_t>(f.recorded.contrast + 1) << 3 |
                  static_cast<std::size_t>(f.recorded.saturation + 1) << 6 |
                  static_cast<std::size_t>(f.recorded.sharpness + 1) << 9 |
                  static_cast<std::size_t>(f.recorded.rendering) << 12})
            h = (h ^ part) * 0x9e3779b97f4a7c15ull + (h >> 29);
        return h;
    }
};

}  // namespace

FactsOfFrames::FactsOfFrames(const std::vector<FrameFacts>& frames)
    : FactsOfFrames(static_cast<int>(frames.size()), [&](int i) { return frames[static_cast<std::size_t>(i)]; }) {}

FactsOfFrames::FactsOfFrames(int count, const std::function<FrameFacts(int)>& facts) {
    // Of a million frames never all at once: each portion is put into its groups before the next is asked for.
    constexpr int portion = 16384;
    auto groups = std::make_shared<std::vector<FactsGroup>>();
    // By the places of the groups, so that their facts are there once.
    const auto hash = [&](std::uint32_t g) { return FactsHash()((*groups)[g].facts); };
    const auto same = [&](std::uint32_t a, std::uint32_t b) { return (*groups)[a].facts == (*groups)[b].facts; };
    std::unordered_set<std::uint32_t, decltype(hash), decltype(same)> index(1024, hash, same);
    std::vector<FrameFacts> some;
    group_of_.reserve(static_cast<std::size_t>(count));
    for (int from = 0; from < count; from += portion) {
        some.resize(static_cast<std::size_t>(std::min(portion, count - from)));
        parallel_for(
            static_cast<int>(some.size()), [&](int i) { some[static_cast<std::size_t>(i)] = facts(from + i); }, 500);
        for (FrameFacts& f : some) {
            groups->push_back({std::move(f), 0});
            const auto [it, fresh] = index.insert(static_cast<std::uint32_t>(groups->size() - 1));
            if (!fresh) groups->pop_back();
            ++(*groups)[*it].frames;
            group_of_.push_back(*it);
        }
    }
    groups_ = std::move(groups);
}

Reach reach_of(const Tier& tier, const std::vector<FactsGroup>& groups, const std::vector<FleetBody>& fleet) {
    Reach out;
    const std::string lens = canonical_lens_of(tier);
    std::set<std::string> seen;
    for (const FactsGroup& g : groups) {
        if (!tier_applies(tier, lens, g.facts)) continue;
        out.frames += g.frames;
        if (!g.facts.body.empty()) seen.insert(g.facts.body);
    }
    for (const FleetBody& b : fleet) {
        if (tier.scope == Scope::model && tier.target != b.model) continue;
        if (tier.scope == Scope::body && tier.target != b.id) continue;
        ++out.bodies;
        out.bodies_seen += seen.count(b.id) > 0;
    }
    return out;
}

std::unordered_map<std::string, Reach> reach_of_all(const Resolver& resolver, const std::vector<FactsGroup>& groups,
                                                    const std::vector<FleetBody>& fleet) {
    std::unordered_map<const Tier*, std::pair<int, std::set<std::string>>> seen;
    for (const FactsGroup& g : groups)
        for (const Tier* t : resolver.applying(g.facts)) {
            auto& [frames, bodies] = seen[t];
            frames += g.frames;
            if (!g.facts.body.empty()) bodies.insert(g.facts.body);
        }
    std::unordered_map<std::string, int> of_model;
    std::set<std::string> registered;
    for (const FleetBody& b : fleet) {
        ++of_model[b.model];
        registered.insert(b.id);
    }
    std::unordered_map<std::string, Reach> out;
    for (const Tier& t : resolver.tiers()) {
        Reach& r = out[t.id];
        r.bodies = static_cast<int>(registered.count(t.target));
        if (t.scope == Scope::studio) r.bodies = static_cast<int>(fleet.size());
        if (t.scope == Scope::model) r.bodies = of_model[t.target];
        const auto it = seen.find(&t);
        if (it == seen.end()) continue;
        r.frames = it->second.first;
        r.bodies_seen = static_cast<int>(it->second.second.size());
    }
    return out;
}

GroupIndex::GroupIndex(std::shared_ptr<const std::vector<FactsGroup>> groups) : groups_(std::move(groups)) {
    for (std::size_t i = 0; i < groups_->size(); ++i) {
        const FrameFacts& facts = (*groups_)[i].facts;
        by_model_[facts.model].push_back(i);
        if (!facts.body.empty()) by_body_[facts.body].push_back(i);
    }
}

namespace {

/// Adds up what differs, group by group.
class ChangeCounter {
public:
    ChangeCounter(const Resolver& before, const Resolver& after, Field field, const std::vector<FleetBody>& fleet)
        : before_(before), after_(after), field_(field) {
        for (const FleetBody& b : fleet) labels_[b.id] = b.label;
    }
    void add(const FactsGroup& g) {
        const Value was = before_.resolve(g.facts, field_).value, is = after_.resolve(g.facts, field_).value;
        if (was == is) return;
        out_.frames += g.frames;
        const auto label = labels_.find(g.facts.body);
        const std::string name = label != labels_.end() ? label->second : g.facts.model + " (body unknown)";
        auto& [body, largest] = bodies_[name];
        body.label = name;
        body.frames += g.frames;
        if (g.frames > largest) {
            largest = g.frames;
            body.was = to_display(field_, was);
            body.is = to_display(field_, is);
        }
    }
    ChangedValues finish() {
        for (auto& [name, body] : bodies_) out_.bodies.push_back(std::move(body.first));
        std::stable_sort(out_.bodies.begin(), out_.bodies.end(),
                         [](const auto& a, const auto& b) { return a.frames > b.frames; });
        return std::move(out_);
    }

private:
    const Resolver &before_, &after_;
    const Field field_;
    std::unordered_map<std::string, std::string> labels_;
    std::map<std::string, std::pair<ChangedValues::Body, int>> bodies_;  ///< with the size of the largest group
    ChangedValues out_;
};

}  // namespace

ChangedValues changed_values(const Resolver& before, const Resolver& after, Field field,
                             const std::vector<FactsGroup>& groups, const std::vector<FleetBody>& fleet) {
    ChangeCounter counter(before, after, field, fleet);
    for (const FactsGroup& g : groups) counter.add(g);
    return counter.finish();
}

ChangedValues changed_values(const Resolver& before, const Resolver& after, const Tier& tier, Field field,
                             const GroupIndex& groups, const std::vector<FleetBody>& fleet) {
    ChangeCounter counter(before, after, field, fleet);
    groups.reached_by(tier, [&](const FactsGroup& g) { counter.add(g); });
    return counter.finish();
}

RecordedSettings::RecordedSettings(const std::vector<FactsGroup>& groups) {
    const auto put = [](auto& at, const FactsGroup& g) {
        auto& [frames, recorded] = at[g.facts.iso];
        if (g.frames > frames) {
            frames = g.frames;
            recorded = g.facts.recorded;
        }
    };
    for (const FactsGroup& g : groups) {
        if (!g.facts.raw || g.facts.iso <= 0) continue;
        if (!g.facts.body.empty()) put(by_body_[g.facts.body], g);
        put(by_model_[g.facts.model], g);
    }
}

RecordedSettings::RecordedEntry RecordedSettings::at(const std::string& model, const std::string& body,
                                                     double iso) const {
    const auto nearest = [&](const auto& habits, const std::string& key) {
        RecordedEntry out;
        const auto it = habits.find(key);
        if (it == habits.end()) return out;
        double best = INFINITY;
        for (const auto& [at, habit] : it->second) {
            const double away = std::abs(std::log2(std::max(iso, 1.0) / at));
            if (away < best) {
                best = away;
                out = {habit.second, at};
            }
        }
        return out;
    };
    const RecordedEntry own = nearest(by_body_, body);
    return own.iso > 0 ? own : nearest(by_model_, model);
}

}  // namespace optrel
