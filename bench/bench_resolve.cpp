// SPDX-License-Identifier: GPL-3.0-or-later
// Resolving frames against 100 tiers on one core, beside a plain resolver that checks every tier in order for every
// field.
#include <benchmark/benchmark.h>

#include <algorithm>

#include "base/choose.h"
#include "baselines/resolver.h"
#include "optics/profile.h"

namespace optrel::bench {
namespace {

std::vector<Tier> hundred_tiers() {
    std::vector<Tier> tiers;
    for (int i = 0; i < 100; ++i) {
        Tier t;
        t.id = "t" + std::to_string(i);
        t.scope = first_of<Scope>({{i < 10, Scope::studio}, {i < 40, Scope::model}}, Scope::body);
        t.target = i < 40 ? "Model " + std::to_string(i % 10)
                          : "Model " + std::to_string(i % 10) + "/" + std::to_string(i % 30);
        if (i % 3 == 1) t.iso_span = {{400, 3200}};
        for (int f = 0; f < 4; ++f) {
            const Field field = static_cast<Field>(static_cast<int>(Field::exposure) + (i + f) % 7);
            Pin pin = Pin::constant({1, ""});
            if (i % 4 == 0) pin.knots.push_back({1600, {3, ""}});
            t.pins[field] = pin;
        }
        tiers.push_back(t);
    }
    return tiers;
}

std::vector<FrameFacts> thousand_frames() {
    std::vector<FrameFacts> frames(1000);
    for (int i = 0; i < 1000; ++i) {
        frames[i].model = "Model " + std::to_string(i % 10);
        frames[i].body = frames[i].model + "/" + std::to_string(i % 30);
        frames[i].body_knowledge = BodyKnowledge::known;
        frames[i].iso = 100 << (i % 7);
    }
    return frames;
}

void resolve_optrel(benchmark::State& state) {
    Revision revision;
    revision.tiers = hundred_tiers();
    const Resolver resolver(revision);
    const std::vector<FrameFacts> frames = thousand_frames();
    ResolvedFrame out;
    for (auto _ : state)
        for (const FrameFacts& f : frames) {
            resolver.resolve(f, out);
            benchmark::DoNotOptimize(out);
        }
    state.counters["frames_per_second"] = benchmark::Counter(1000.0 * state.iterations(), benchmark::Counter::kIsRate);
}

void resolve_plain(benchmark::State& state) {
    std::vector<Tier> tiers = hundred_tiers();
    const std::vector<FrameFacts> frames = thousand_frames();
    for (auto _ : state)
        for (const FrameFacts& f : frames) {
            std::vector<const Tier*> applying;
            for (const Tier& t : tiers) {
                if (t.scope == Scope::model && t.target != f.model) continue;
                if (t.scope == Scope::body && t.target != f.body) continue;
                if (t.iso_span && (f.iso < t.iso_span->first || f.iso > t.iso_span->second)) continue;
                applying.push_back(&t);
            }
            std::stable_sort(applying.begin(), applying.end(),
                             [](const Tier* a, const Tier* b) { return a->rank() < b->rank(); });
            ResolvedFrame out = neutral_start();
            for (const Tier* t : applying)
                for (const auto& [field, pin] : t->pins)
                    out.fields[static_cast<int>(field)].value = pin.at(field, f.iso);
            benchmark::DoNotOptimize(out);
        }
}

BENCHMARK(resolve_optrel)->Name("resolve_1000_frames/optrel")->Unit(benchmark::kMicrosecond);
BENCHMARK(resolve_plain)->Name("resolve_1000_frames/every_tier_in_order")->Unit(benchmark::kMicrosecond);

}  // namespace
}  // namespace optrel::bench
