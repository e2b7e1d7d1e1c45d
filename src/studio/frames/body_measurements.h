// SPDX-License-Identifier: GPL-3.0-or-later
// What was measured of bodies, as developments need it: defects and noise.
#pragma once

#include <array>
#include <memory>
#include <optional>
#include <set>
#include <string>
#include <vector>

#include "baselines/resolver.h"
#include "fleet/fleet.h"
#include "measurement/measurement.h"
#include "sensor/defect_map.h"

namespace optrel {

class Store;
class OpenedFrame;

/// A published version of a defect map.
struct PublishedDefects {
    std::string id;
    int version = 0;
    bool current = false;
    DefectMap map;
};

struct BodyMeasurements {
    std::vector<std::shared_ptr<const PublishedDefects>> defects;  ///< all versions
    std::vector<Measurement> noise;                                ///< the current ones
    std::set<std::string> fingerprints;                            ///< the current ones: "f1a2b3@1"
    std::set<std::string> fingerprinted;  ///< camera names of which a current fingerprint is there
};

/// Those of a store. Read again only when its measurements changed, because they have thousands of entries.
/// Thread-safe.
std::shared_ptr<const BodyMeasurements> body_measurements(const Store& store);

/// What is known of the sensor that took a frame.
struct SensorFacts {
    std::shared_ptr<const PublishedDefects> defects;  ///< null: no map
    /// At the frame's ISO, see noise_terms_at(); empty: not measured.
    std::optional<std::array<double, 6>> noise;

    bool operator==(const SensorFacts&) const = default;
};

/// Facts of a frame: the map of its body, and the noise of its body or of the body's model. A body that is only assumed
/// has no map.
SensorFacts sensor_facts(const FrameFacts& facts, const Fleet& fleet, const BodyMeasurements& measured);

/// The samples of a frame that its body's map replaces. Empty without a map, and for a frame of another size than the
/// map's, as of a cropping mode: there the positions do not apply.
BadSamples bad_samples_of(const OpenedFrame& frame, double iso, const cv::Size& size, const SensorFacts& sensor);

/// Gives a picture what is known of its sensor: bad samples are replaced, and its noise is set. `iso`: of the frame.
void apply_sensor_facts(RawPicture& raw, const OpenedFrame& frame, double iso, const SensorFacts& sensor);

}  // namespace optrel
