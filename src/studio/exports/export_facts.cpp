// SPDX-License-Identifier: GPL-3.0-or-later
#include "studio/exports/export_facts.h"

#include <algorithm>

#include "sensor/noise_kind.h"
#include "store/store.h"
#include "studio/development/frame_development.h"
#include "studio/frames/knowledge.h"
#include "studio/frames/measured_facts.h"

namespace optrel {
namespace {

std::optional<std::array<double, 6>> measured_noise(Store& store, const std::filesystem::path& frame) {
    const std::vector<Measurement> current = store.measurements().current(noise_kind());
    if (current.empty()) return std::nullopt;
    const auto fleet = store.registry().fleet();
    const FrameFacts facts =
        know(std::filesystem::absolute(frame).lexically_normal(), read_metadata(frame), *fleet).facts;
    const std::vector<MeasurementReference> fitting = measured_facts(facts, *fleet, current);
    const Measurement* best = nullptr;
    for (const Measurement& m : current)
        if (std::find(fitting.begin(), fitting.end(), MeasurementReference{m.id, m.version}) != fitting.end())
            if (!best || m.subject.kind == MeasuredSubject::Kind::body) best = &m;
    return best ? noise_terms_at(best->document, facts.iso) : std::nullopt;
}

}  // namespace

FrameDevelopment export_facts(Store& store, const std::filesystem::path& frame, const Delivery& delivery) {
    FrameDevelopment out = development_from_store(store, frame);
    if (delivery.format == ExportFormat::dng && !out.film) out.noise = measured_noise(store, frame);
    return out;
}

}  // namespace optrel
