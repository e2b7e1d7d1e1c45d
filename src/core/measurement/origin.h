// SPDX-License-Identifier: GPL-3.0-or-later
// Where a measurement came from, and whether its signer is trusted.
#pragma once

#include <string>

namespace optrel {

/// What a measurement was made from. Only measured ones are applied to frames automatically; a person must assign the
/// others.
enum class MeasurementOrigin {
    measured,          ///< on the Bench
    by_hand,           ///< from what a person set on a frame
    embedded,          ///< from the correction that a frame carried
    calibration_file,  ///< from a camera model that another program wrote
};
std::string to_string(MeasurementOrigin origin);

/// Trust of this studio in the signer of a measurement that came from elsewhere.
enum class Standing {
    not_signed,  ///< without a signature
    unknown,     ///< signed with a key that this studio does not trust
    trusted,
    withdrawn  ///< the owner withdrew the key, so that somebody else may have it now
};
std::string to_string(Standing standing);

/// Source of a measurement that was not made in this studio.
struct MeasurementSource {
    std::string way;     ///< "bundle" or "exchange"
    std::string source;  ///< title of the bundle, or address of the exchange
    std::string key;     ///< public key of the signer; empty: not signed
    std::string signer;  ///< name that the signer uses
    std::string author;  ///< person who imported it
    std::string time;    ///< of the import, ISO 8601, UTC
    /// Set when the measurement is read from a store; no part of the document.
    Standing standing = Standing::not_signed;
};
/// "the bundle 'Seaweeds', signed by Shore Museum (3f2a 91c0 77de 0b12)".
std::string named_source(const MeasurementSource& taken_in);
/// The same, and whether this studio trusts the signer.
std::string describe(const MeasurementSource& taken_in);

}  // namespace optrel
