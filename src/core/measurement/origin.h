// SPDX-License-Identifier: GPL-3.0-or-later
// Where a measurement came from, and whether its signer is trusted.
#pragma once

#include <string>

namespace optrel {

/// What a measurement was made from. Frames get by themselves only what was measured, and the others when a person
/// assigns them.
enum class MeasurementOrigin {
    measured,          ///< on the Bench
    by_hand,           ///< from what a person set on a frame
    embedded,          ///< from the correction that a frame carried
    calibration_file,  ///< from a camera model that another program wrote
};
std::string to_string(MeasurementOrigin origin);

/// What this studio knows of the signer of a measurement that came from elsewhere.
enum class Standing {
    not_signed,  ///< nobody stands for it
    unknown,     ///< signed with a key that this studio does not trust
    trusted,
    withdrawn  ///< by its owner: whoever has the key now may not be them
};
std::string to_string(Standing standing);

/// Where a measurement came from that was not made here.
struct MeasurementSource {
    std::string way;     ///< "bundle" or "exchange"
    std::string source;  ///< title of the bundle, or address of the exchange
    std::string key;     ///< public key of who signed it; empty: nobody did
    std::string signer;  ///< as they call themselves
    std::string author;  ///< who took it in
    std::string time;    ///< when, ISO 8601, UTC
    /// What the store that it was read from makes of the key; no part of the document.
    Standing standing = Standing::not_signed;
};
/// "the bundle 'Seaweeds', signed by Shore Museum (3f2a 91c0 77de 0b12)".
std::string named_source(const MeasurementSource& taken_in);
/// The same, "whom this studio trusts", or does not.
std::string describe(const MeasurementSource& taken_in);

}  // namespace optrel
