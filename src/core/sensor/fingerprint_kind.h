// SPDX-License-Identifier: GPL-3.0-or-later
// Fingerprints as a kind of measurement: their subject is a body.
#pragma once

#include <string>
#include <vector>

#include "measurement/kind.h"
#include "sensor/fingerprint.h"

namespace optrel {

/// A fingerprint and the body that it belongs to.
struct BodyFingerprint {
    std::string body;            ///< id in the register
    std::string camera, serial;  ///< of the body; the serial number is the body's id when its files report none
    Fingerprint print;
    std::string author, time;         ///< ISO 8601, UTC
    std::vector<std::string> frames;  ///< names of the flat fields
};

std::string fingerprint_to_json(const BodyFingerprint& fingerprint);
/// Throws Error(input) about `where`.
BodyFingerprint fingerprint_from_json(const std::string& document, const std::string& where);

const MeasurementKind& fingerprint_kind();

}  // namespace optrel
