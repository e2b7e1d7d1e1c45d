// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/baselines/probe.h"

#include <algorithm>

#include "base/error.h"
#include "optics/lens_text.h"
#include "studio/frames/knowledge.h"

namespace optrel {
namespace {

/// Recorded settings are needed only when a start uses them.
bool asks_for_recorded(const Revision& revision) {
    const auto starts = [](const auto& list) {
        return std::any_of(list.begin(), list.end(),
                           [](const auto& entry) { return entry.pins.count(Field::start) > 0; });
    };
    return starts(revision.tiers) || starts(revision.sets);
}

}  // namespace

bool depends_on_iso(const Revision& revision) {
    const auto ramps = [](const Pins& pins) {
        return std::any_of(pins.begin(), pins.end(), [](const auto& pin) { return pin.second.is_ramp(); });
    };
    return std::any_of(revision.tiers.begin(), revision.tiers.end(),
                       [&](const Tier& t) { return t.iso_span || ramps(t.pins); }) ||
           std::any_of(revision.sets.begin(), revision.sets.end(), [&](const PinSet& s) { return ramps(s.pins); }) ||
           std::any_of(revision.recorded_adds.begin(), revision.recorded_adds.end(),
                       [&](const auto& added) { return ramps(added.second); });
}

void take_lens(FrameFacts& facts, const std::string& text, const Naming& naming) {
    if (text.empty()) return;
    // A text that several copies share names the lens model; only an unambiguous one names a copy.
    const std::string lens = naming.lens_text(text);
    facts.lens = canonical_lens_text(lens);
    if (canonical_lens_text(text) == facts.lens) return;
    facts.lens_copy = naming.lens_copy(text);
}

FrameFacts probe_facts(const ProbeQuery& words, const Store& store, const Fleet& fleet, const Revision& revision) {
    const Naming naming(store);
    FrameFacts facts;
    facts.raw = words.raw;
    if (!words.body.empty()) {
        facts.body = naming.body(words.body);
        facts.model = fleet.body(facts.body)->camera();
        facts.body_knowledge = BodyKnowledge::known;
        if (!words.model.empty() && naming.model(words.model) != facts.model)
            throw input_error("The body '" + facts.body + "' is a " + facts.model + ", not a " +
                              naming.model(words.model) + "; give one of the two.");
    } else {
        facts.model = naming.model(words.model);
    }
    take_lens(facts, words.lens, naming);
    if (!words.iso && depends_on_iso(revision))
        throw usage_error("What this baseline says depends on the ISO; give it with --iso.");
    facts.iso = words.iso.value_or(0);
    if (asks_for_recorded(revision))
        facts.recorded = RecordedSettings(facts_of(store.frames().all(), fleet).groups())
                             .at(facts.model, facts.body, facts.iso)
                             .recorded;
    return facts;
}

}  // namespace optrel
