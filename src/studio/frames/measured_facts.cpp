// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/frames/measured_facts.h"

#include "kinds/measurement_kinds.h"
#include "optics/lens_text.h"
#include "store/store.h"
#include "studio/frames/knowledge.h"

namespace optrel {

std::vector<Measurement> current_measurements(const Store& store) {
    std::vector<Measurement> out;
    for (const MeasurementKind* kind : measurement_kinds())
        if (pins_may_follow(*kind))
            for (Measurement& m : store.measurements().current(*kind)) out.push_back(std::move(m));
    return out;
}

std::vector<MeasurementReference> measured_facts(const FrameFacts& facts, const Fleet& fleet,
                                                 const std::vector<Measurement>& current) {
    using Kind = MeasuredSubject::Kind;
    const Body* body = facts.body_knowledge == BodyKnowledge::known ? fleet.body(facts.body) : nullptr;
    const LensEntry* lens = facts.lens_copy.empty() ? nullptr : fleet.lens(facts.lens_copy);
    const auto is_subject = [&](const MeasuredSubject& s) {
        switch (s.kind) {
            case Kind::body: return body && s.name == body->camera() && s.serial == body->measured_serial();
            case Kind::body_model: return s.name == facts.model;
            case Kind::lens_copy:
                return lens && s.serial == lens->serial && canonical_lens_text(s.name) == facts.lens &&
                       (s.with.empty() || s.with == facts.model);
            case Kind::lens_model:
                return !facts.lens.empty() && canonical_lens_text(s.name) == facts.lens &&
                       (s.with.empty() || s.with == facts.model);
        }
        return false;
    };
    std::vector<MeasurementReference> out;
    for (const Measurement& m : current)
        if (is_subject(m.subject)) out.push_back({m.id, m.version});
    return out;
}

int frames_measured_by(const Store& store, const Measurement& measurement) {
    const auto fleet = store.registry().fleet();
    int out = 0;
    const FactsOfFrames facts = facts_of(store.frames().all(), *fleet);
    for (const FactsGroup& group : facts.groups())
        if (!measured_facts(group.facts, *fleet, {measurement}).empty()) out += group.frames;
    return out;
}

}  // namespace optrel
