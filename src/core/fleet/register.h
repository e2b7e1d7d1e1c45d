// SPDX-License-Identifier: GPL-3.0-or-later
// The register: camera models, bodies and lenses of the studio.
#pragma once

#include <string>
#include <vector>

#include "frames/metadata.h"

namespace optrel {

/// A camera model with the properties that all its bodies share.
struct ModelEntry {
    std::string id;  ///< camera name
    std::string maker, model;
    int width = 0, height = 0;  ///< pixels
    double pitch_um = 0;
    std::string filter;         ///< colour filter, for example RGGB; "none" for a monochrome sensor; empty: unknown
    std::string recorded_adds;  ///< pins (JSON) added to the start "as recorded"; empty: none
    std::string notes;

    bool operator==(const ModelEntry&) const = default;
};

struct Body {
    std::string id;  ///< camera name / serial number, or another identifier
    std::string maker, model, serial;
    std::string name, asset_tag;
    int width = 0, height = 0;
    double pitch_um = 0;
    std::string room;
    std::string condition;  ///< for example infrared-converted; empty: original condition
    std::string notes;
    bool in_service = true;

    std::string camera() const;
    std::string label() const { return name.empty() ? id : name; }
    /// The number by which measurements name it: its id when its files report no serial number.
    const std::string& measured_serial() const { return serial.empty() ? id : serial; }
    bool operator==(const Body&) const = default;
};

struct LensEntry {
    std::string id;  ///< lens text / serial number, or another identifier
    std::string lens, serial;
    std::string name, asset_tag;
    bool contacts = true;  ///< false: the lens reports nothing, so frames must be assigned by claims
    double focal_min_mm = 0, focal_max_mm = 0;  ///< equal for a prime lens; 0: unknown
    double aperture_min = 0, aperture_max = 0;  ///< f-numbers, lowest first; 0: unknown
    std::string room, notes;
    bool in_service = true;

    std::string label() const { return name.empty() ? id : name; }
    bool zoom() const { return focal_max_mm > focal_min_mm && focal_min_mm > 0; }
    bool operator==(const LensEntry&) const = default;
};

/// Id for a new body or lens: from its serial number, otherwise its asset tag, otherwise its name.
std::string id_for(const Body& body);
std::string id_for(const LensEntry& lens);

/// Id of the body in the metadata; empty without a serial number.
std::string body_id(const Metadata& metadata);
/// Id of the individual lens in the metadata; empty without a serial number.
std::string lens_id(const Metadata& metadata);

ModelEntry model_from(const Metadata& metadata);
Body body_from(const Metadata& metadata);
/// Takes focal length and aperture range from the lens text, where it contains them.
LensEntry lens_from(const Metadata& metadata);

struct Register {
    std::vector<ModelEntry> models;
    std::vector<Body> bodies;
    std::vector<LensEntry> lenses;

    const Body* body(const std::string& id) const;
    const LensEntry* lens(const std::string& id) const;
    const ModelEntry* model(const std::string& id) const;
};

/// Throws Error(input) for an invalid entry: no model, a duplicate serial number or asset tag, values out of range. For
/// many entries use RegisterIndex.
void check_entry(const Register& all, const Body& body);
void check_entry(const Register& all, const LensEntry& lens);
void check_entry(const ModelEntry& model);

}  // namespace optrel
