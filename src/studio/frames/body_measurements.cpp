// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/frames/body_measurements.h"

#include <algorithm>
#include <cmath>
#include <mutex>

#include "frames/exposure_time.h"
#include "sensor/defect_kind.h"
#include "sensor/fingerprint_kind.h"
#include "sensor/noise_kind.h"
#include "store/store.h"
#include "studio/frames/measured_facts.h"

namespace optrel {
namespace {

/// The measurements that were read last.
struct LastRead {
    std::string store;
    long long stamp = -1;
    std::shared_ptr<const BodyMeasurements> measured;
};

std::shared_ptr<const BodyMeasurements> read_all(const Store& store) {
    auto out = std::make_shared<BodyMeasurements>();
    for (const Measurement& m : store.measurements().all_versions(defect_kind()))
        out->defects.push_back(std::make_shared<const PublishedDefects>(
            PublishedDefects{m.id, m.version, m.state.is_current(), defects_from_json(m.document, m.name)}));
    out->noise = store.measurements().current(noise_kind());
    for (const Measurement& m : store.measurements().current(fingerprint_kind())) {
        out->fingerprinted.insert(m.subject.name);
        out->fingerprints.insert(to_string(MeasurementReference{m.id, m.version}));
    }
    return out;
}

std::shared_ptr<const PublishedDefects> map_of(const FrameFacts& facts, const Fleet& fleet,
                                               const BodyMeasurements& measured) {
    const Body* body = facts.body_knowledge == BodyKnowledge::known ? fleet.body(facts.body) : nullptr;
    if (!body) return nullptr;
    for (const std::shared_ptr<const PublishedDefects>& m : measured.defects)
        if (m->current && m->map.camera == body->camera() && m->map.serial == body->measured_serial()) return m;
    return nullptr;
}

std::optional<std::array<double, 6>> noise_of(const FrameFacts& facts, const Fleet& fleet,
                                              const BodyMeasurements& measured) {
    if (measured.noise.empty()) return std::nullopt;
    const std::vector<MeasurementReference> fitting = measured_facts(facts, fleet, measured.noise);
    const Measurement* best = nullptr;
    for (const Measurement& m : measured.noise)
        if (std::find(fitting.begin(), fitting.end(), MeasurementReference{m.id, m.version}) != fitting.end())
            if (!best || m.subject.kind == MeasuredSubject::Kind::body) best = &m;
    return best ? noise_terms_at(best->document, facts.iso) : std::nullopt;
}

}  // namespace

std::shared_ptr<const BodyMeasurements> body_measurements(const Store& store) {
    static std::mutex mutex;
    static LastRead last;
    // The counter is read first: what is published meanwhile is read by the next call.
    const std::map<std::string, long long> stamps = store.stamps();
    const auto found = stamps.find("profiles");
    const long long stamp = found == stamps.end() ? 0 : found->second;
    const std::string name = store.source().address();
    {
        const std::lock_guard lock(mutex);
        if (last.store == name && last.stamp == stamp) return last.measured;
    }
    const std::shared_ptr<const BodyMeasurements> measured = read_all(store);
    const std::lock_guard lock(mutex);
    last = {name, stamp, measured};
    return measured;
}

SensorFacts sensor_facts(const FrameFacts& facts, const Fleet& fleet, const BodyMeasurements& measured) {
    return {map_of(facts, fleet, measured), noise_of(facts, fleet, measured)};
}

BadSamples bad_samples_of(const OpenedFrame& frame, double iso, const cv::Size& size, const SensorFacts& sensor) {
    if (!sensor.defects || sensor.defects->map.width != size.width || sensor.defects->map.height != size.height)
        return {};
    return bad_samples_at(sensor.defects->map, static_cast<int>(std::lround(iso)), exposure_time(frame));
}

void apply_sensor_facts(RawPicture& raw, const OpenedFrame& frame, double iso, const SensorFacts& sensor) {
    replace_bad_samples(raw, bad_samples_of(frame, iso, raw.counts.size(), sensor));
    raw.noise = sensor.noise;
}

}  // namespace optrel
