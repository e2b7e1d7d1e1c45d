// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/frames/knowledge.h"

#include <unordered_map>

#include "optics/lens_text.h"
#include "studio/frames/sensor_size.h"

namespace optrel {
namespace fs = std::filesystem;

namespace {

Recorded recorded_of(const Metadata& m) {
    return {static_cast<signed char>(m.recorded_contrast), static_cast<signed char>(m.recorded_saturation),
            static_cast<signed char>(m.recorded_sharpness), m.recorded_rendering};
}

FrameFacts facts_from(const Metadata& m, const BodyAnswer& body, const LensAnswer& lens) {
    FrameFacts facts;
    facts.raw = m.kind == FrameKind::raw;
    facts.model = camera_name(m);
    facts.body = body.id;
    facts.body_knowledge = static_cast<BodyKnowledge>(static_cast<int>(body.knowledge));
    facts.lens = canonical_lens_text(lens.lens);
    facts.lens_copy = lens.id;
    facts.iso = m.iso;
    facts.recorded = recorded_of(m);
    return facts;
}

FrameFacts facts_of_frame(const FrameRecord& f, const Fleet& fleet) {
    const Metadata m = f.metadata;
    const fs::path path = f.path;
    const BodyAnswer body = fleet.body_of(path, m);
    return facts_from(m, body, fleet.lens_of(path, m, body.id));
}

}  // namespace

FrameKnowledge know(const fs::path& path, const Metadata& m, const Fleet& fleet) {
    FrameKnowledge out;
    out.body = fleet.body_of(path, m);
    out.lens = fleet.lens_of(path, m, out.body.id);
    out.facts = facts_from(m, out.body, out.lens);
    out.metadata = with_pitch(with_lens(m, out.lens), fleet);
    return out;
}

FactsOfFrames facts_of(const std::vector<FrameRecord>& frames, const Fleet& fleet) {
    return {static_cast<int>(frames.size()),
            [&](int i) { return facts_of_frame(frames[static_cast<std::size_t>(i)], fleet); }};
}

std::string body_label(const FrameFacts& facts, const Fleet& fleet) {
    if (const Body* b = fleet.body(facts.body))
        return facts.body_knowledge == BodyKnowledge::assumed ? b->label() + " (assumed)" : b->label();
    return facts.model.empty() ? "unknown camera" : facts.model + " (body unknown)";
}

std::vector<FleetBody> fleet_bodies(const Fleet& fleet, const std::vector<FrameRecord>& frames,
                                    const FactsOfFrames& facts) {
    std::unordered_map<std::string, std::pair<int, int>>
        numbered;  // number of frames, and of frames with a serial number
    for (std::size_t i = 0; i < facts.size(); ++i) {
        if (facts[i].body.empty()) continue;
        auto& [all, with_number] = numbered[facts[i].body];
        ++all;
        with_number += !frames[i].metadata->body_serial.empty() || !frames[i].metadata->other_serials.empty();
    }
    std::vector<FleetBody> out;
    for (const Body& b : fleet.entries().bodies) {
        const auto it = numbered.find(b.id);
        out.push_back({b.id, b.label(), b.camera(), b.condition, it == numbered.end() || it->second.second > 0});
    }
    return out;
}

std::vector<Identity> identities_of(const std::vector<FrameRecord>& frames, const Fleet& fleet) {
    IdentityCollector collector(fleet);
    for (const FrameRecord& f : frames) {
        const Metadata m = f.metadata;
        const fs::path path = f.path;
        const BodyAnswer body = fleet.body_of(path, m);
        collector.add(path, m, body, fleet.lens_of(path, m, body.id));
    }
    return collector.finish();
}

ScopedFrame scoped(const FrameRecord& frame, const Fleet& fleet) {
    FrameFacts facts = facts_of_frame(frame, fleet);
    std::string label = body_label(facts, fleet);
    return {frame.path, std::move(facts), std::move(label), frame.metadata->carries};
}

FrameFacts facts_for(const Body& body, double iso, const RecordedSettings& habits) {
    FrameFacts facts;
    facts.model = body.camera();
    facts.body = body.id;
    facts.body_knowledge = BodyKnowledge::known;
    facts.iso = iso;
    facts.recorded = habits.at(facts.model, body.id, iso).recorded;
    return facts;
}

}  // namespace optrel
